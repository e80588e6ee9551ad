import { mount } from "svelte";
import App from "./App.svelte";
import "./app.css";

const dark = localStorage.getItem("hawthorn:dark");
const wanted = dark === null ? matchMedia("(prefers-color-scheme: dark)").matches : dark === "yes";
document.documentElement.classList.toggle("dark", wanted);

mount(App, { target: document.getElementById("app")! });
