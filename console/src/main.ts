import { mount } from "svelte";
import App from "./App.svelte";
import "./app.css";
import { ready } from "./lib/i18n";
import { rtl, spoken } from "./lib/language";

const dark = localStorage.getItem("hawthorn:dark");
const wanted = dark === null ? matchMedia("(prefers-color-scheme: dark)").matches : dark === "yes";
document.documentElement.classList.toggle("dark", wanted);
document.documentElement.lang = spoken;
document.documentElement.dir = rtl ? "rtl" : "ltr";

void ready().then(() => mount(App, { target: document.getElementById("app")! }));
