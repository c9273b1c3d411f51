// What the server takes a while for: how far it has come, and a button that stops it.

import { get, post } from "./api.js";

/** What takes no longer than this is over before it could be read about, ms. */
const PATIENCE = 400;

const freshName = () => [...crypto.getRandomValues(new Uint32Array(4))].map((part) => part.toString(16)).join("-");

/** Waits for what the server makes of a request, said in `words` where it takes a while; it can be stopped. */
export async function watched(words, send) {
  const name = freshName();
  const line = new Line(words, () => post(`/api/work/${name}/stop`));
  const showing = setTimeout(() => line.show(), PATIENCE);
  const looking = setInterval(async () => line.isShown && line.tell(await get(`/api/work/${name}`).catch(() => null)), 500);
  try {
    return await send({ "X-Work": name });
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
    this.element.dataset.work = "line";
    this.text = document.createElement("span");
    this.text.textContent = this.words;
    this.bar = document.createElement("progress");
    this.bar.className = "work-bar";
    this.bar.setAttribute("aria-label", this.words);
    const button = document.createElement("button");
    button.className = "shrink-0 font-bold underline";
    button.dataset.work = "stop";
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
