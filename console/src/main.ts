import { mount } from "svelte";
import App from "./App.svelte";
import "./app.css";
import { rtl, spoken } from "./lib/language";

const dark = localStorage.getItem("hawthorn:dark");
const wanted = dark === null ? matchMedia("(prefers-color-scheme: dark)").matches : dark === "yes";
document.documentElement.classList.toggle("dark", wanted);
document.documentElement.lang = spoken;
document.documentElement.dir = rtl ? "rtl" : "ltr";

mount(App, { target: document.getElementById("app")! });
