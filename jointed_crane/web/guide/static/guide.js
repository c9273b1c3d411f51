// A page of the guide: "Try it here" puts its scene on the shelf and opens it.

import { post } from "../api.js";
import { saying } from "../notices.js";

const { guide } = document.querySelector("[data-guide]").dataset;
document.querySelector("[data-guide-try]").addEventListener("click", async () => {
  const made = await saying(() => post(`/api/guide/${guide}`));
  if (made) location.href = `/scenes/${made.id}`;
});
