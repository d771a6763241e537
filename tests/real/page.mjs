// Opens a report's page in a browser without a window, uses its last table as a reader would, and tells what is seen.
// page.mjs FILE STEP... where a step is filter=WORDS, sort=COLUMN (from 0), next or back.
import { readFileSync } from "node:fs";
import { JSDOM } from "jsdom";

const [file, ...steps] = process.argv.slice(2);
const errors = [];
const requests = [];
const dom = new JSDOM(readFileSync(file, "utf8"), { runScripts: "dangerously", url: "http://127.0.0.1/page.html", beforeParse(window) {
  window.addEventListener("error", event => errors.push(String(event.message)));
  window.fetch = address => { requests.push(String(address)); return Promise.reject(new Error("no")); };
} });
const section = [...dom.window.document.querySelectorAll("section[data-rows]")].at(-1);
const [back, next] = section.querySelectorAll(".tools button");
for (const step of steps) {
  const [what, value] = step.split("=");
  if (what === "filter") {
    section.querySelector("input").value = value;
    section.querySelector("input").dispatchEvent(new dom.window.Event("input"));
  } else if (what === "sort") section.querySelectorAll("th button")[Number(value)].click();
  else (what === "next" ? next : back).click();
}
console.log(JSON.stringify({
  errors, requests,
  count: section.querySelector(".count").textContent,
  tools: !section.querySelector(".tools").hidden,
  back: !back.disabled, next: !next.disabled,
  sorted: [...section.querySelectorAll("th")].map(head => head.getAttribute("aria-sort") ?? ""),
  rows: [...section.querySelectorAll("tbody tr")].map(row => [...row.cells].map(cell => cell.textContent)),
  images: dom.window.document.images.length,
}));
