// Files on their way in: how far reading them has come, and a button that stops it.

import { get, post, postForm } from "./api.js";

/** Reading that takes no longer than this is over before it could be read about, ms. */
const PATIENCE = 400;

const freshName = () => [...crypto.getRandomValues(new Uint32Array(4))].map((part) => part.toString(16)).join("-");

/** Sends files and waits for what the server makes of them; says so where it takes a while, and can be stopped. */
export function postFiles(path, files, fields = {}) {
  const form = new FormData();
  for (const file of files) form.append("files", file);
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  return watched(`Reading ${files.length === 1 ? files[0].name : `${files.length} files`}`, (headers) => postForm(path, form, headers));
}

/** Sends a document whose answer takes reading pictures, said in `words` where it takes a while; it can be stopped. */
export const postRead = (path, document, words) => watched(words, (headers) => post(path, document, headers));

async function watched(words, send) {
  const name = freshName();
  const line = new Line(words, () => post(`/api/reading/${name}/stop`));
  const showing = setTimeout(() => line.show(), PATIENCE);
  const looking = setInterval(async () => line.isShown && line.tell(await get(`/api/reading/${name}`).catch(() => null)), 500);
  try {
    return await send({ "X-Reading": name });
  } finally {
    clearTimeout(showing);
    clearInterval(looking);
    line.remove();
  }
}

class Line {
  constructor(words, stop) {
    this.words = words;
    this.stop = stop;
    this.isShown = false;
  }

  show() {
    this.isShown = true;
    this.element = document.createElement("div");
    this.element.className = "notice items-center";
    this.element.dataset.reading = "line";
    this.text = document.createElement("span");
    this.text.textContent = this.words;
    this.bar = document.createElement("progress");
    this.bar.className = "reading-bar";
    this.bar.setAttribute("aria-label", this.words);
    const button = document.createElement("button");
    button.className = "shrink-0 font-bold underline";
    button.dataset.reading = "stop";
    button.textContent = "Stop";
    button.addEventListener("click", () => {
      button.disabled = true;
      this.text.textContent = "Stopping";
      this.stop().catch(() => {});
    });
    this.element.append(this.text, this.bar, button);
    // A dialog lies above the rest of the page; what it waits for is said inside it.
    (document.querySelector("dialog[open]") ?? document.querySelector("#notices")).append(this.element);
  }

  tell(answer) {
    if (!answer?.of) return;
    this.bar.max = answer.of;
    this.bar.value = answer.done;
    this.text.textContent = `${this.words}: ${answer.done} of ${answer.of} ${answer.what}`;
  }

  remove() {
    this.element?.remove();
  }
}
