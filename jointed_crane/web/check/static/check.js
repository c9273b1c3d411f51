// The check page: mending and silencing are edits like any other, kept against the version the page shows.

import { post } from "../api.js";
import { saying } from "../notices.js";

const page = document.querySelector("[data-check=page]");
const path = `/api/scenes/${page.dataset.scene}`;
const version = Number(page.dataset.version);

async function keep(send) {
  if (await saying(send)) location.reload();
}
const undo = () => keep(() => post(`${path}/undo`, { version }));

page.addEventListener("click", (event) => {
  const { edits } = event.target.closest("[data-edits]")?.dataset ?? {};
  if (edits) keep(() => post(`${path}/edits`, { version, edits: JSON.parse(edits) }));
});
document.querySelector("[data-check=undo]").addEventListener("click", undo);
addEventListener("keydown", (event) => {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
    event.preventDefault();
    if (event.shiftKey) keep(() => post(`${path}/redo`, { version }));
    else undo();
  }
  if (event.key === "Escape") location.href = `/scenes/${page.dataset.scene}`;
});
