// What sending would come to, foretold by the server from a few frames.

import { post } from "../api.js";
import { sizeOf, timeOf } from "./words.js";

/** What a change waits for others to follow it, ms. */
const PAUSE = 500;

export function mountForecast(part, path) {
  const list = part("forecast");
  const notes = part("notes");
  let newest = 0;
  let waiting = 0;

  /** Foretells what is ordered; of so many rows it is that of each. */
  function ask(order, rows = 0) {
    list.setAttribute("aria-busy", "true");
    clearTimeout(waiting);
    waiting = setTimeout(() => answer(order, rows, ++newest), PAUSE);
  }

  async function answer(order, rows, number) {
    let told = [];
    let said = [];
    try {
      const result = await post(`${path}/forecast`, order);
      if (rows) told.push([rows === 1 ? "1 file" : `${rows} files`, "in a zip, each about so"]);
      told = told.concat(facts(result));
      said = result.notes;
      if (!said.length) said = ["Nothing is lost in this form. Helpers, references and levers are not sent."];
    } catch (error) {
      if (error.status === undefined) throw error;
      said = [error.message];
    }
    if (number !== newest) return;
    list.replaceChildren(...told.map(fact));
    notes.replaceChildren(...said.map(line));
    notes.dataset.isRefused = String(!told.length);
    list.removeAttribute("aria-busy");
  }

  return { ask };
}

function facts({ frames, seconds, width, height, size, takes }) {
  const result = [];
  if (frames) result.push([frames === 1 ? "1 frame" : `${frames} frames`, `${Number(seconds.toFixed(2))} s`]);
  if (width) result.push([`${width} × ${height}`, "px"]);
  result.push([frames ? `about ${sizeOf(size)}` : sizeOf(size), frames ? "from a few frames drawn" : "on disk"]);
  result.push([`about ${timeOf(takes)}`, "on this machine"]);
  return result;
}

function fact([large, small]) {
  const holder = document.createElement("div");
  const title = document.createElement("dt");
  title.textContent = large;
  const words = document.createElement("dd");
  words.textContent = small;
  holder.append(title, words);
  return holder;
}

function line(sentence) {
  const item = document.createElement("li");
  item.className = "send-note";
  item.textContent = sentence;
  return item;
}
