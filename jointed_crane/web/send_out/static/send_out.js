// The page on which a scene is sent out: a tag is tied, choices are made, one frame is shown, and it is sent.

import { get, post } from "../api.js";
import { notice, saying } from "../notices.js";
import { Choices } from "./choices.js";
import { Filling } from "./filling.js";
import { mountForecast } from "./forecast.js";
import { Preview } from "./preview.js";
import { Sent } from "./sent.js";
import { Tags } from "./tags.js";

const part = (name) => document.querySelector(`[data-send="${name}"]`);
const known = JSON.parse(part("known").textContent);
const path = `/api/scenes/${part("page").dataset.scene}`;

const choices = new Choices(part("choices"), known, changed);
const preview = new Preview(part, known, path, () => choices.knows("frame") && forecast.ask(order()));
const forecast = mountForecast(part, path);
const filling = new Filling(part, known, part("page").dataset.scene, changed);
const sent = new Sent(part, known, path, preview);
const tags = new Tags(part("tags"), known, tie);

/** Takes the way and the choices of a tag. */
function tie(tag) {
  choices.take(tag.way, tag.choices);
  changed();
}

/** What would be sent now; one frame is the one that is shown. */
function order() {
  const { way, choices: chosen } = choices.order;
  return { way, choices: choices.knows("frame") ? { ...chosen, frame: preview.frame } : chosen };
}

/** A tag whose choices were changed stays tied: it is where one came from. */
function changed() {
  if (!choices.way) return;
  preview.show(choices, filling.shown);
  const rows = filling.order?.rows.length ?? 0;
  forecast.ask(order(), rows);
  part("go").textContent = rows ? `Send out ${rows === 1 ? "1 file" : `${rows} files`}` : "Send out";
}

part("go").addEventListener("click", async () => {
  const result = await saying(() => post(`${path}/sendings`, { ...order(), filling: filling.order }));
  if (result) sent.put(result);
});

part("keep").addEventListener("click", () => part("keeping").showModal());
part("not-kept").addEventListener("click", () => part("keeping").close());
part("keeping").addEventListener("submit", async (event) => {
  const { name } = Object.fromEntries(new FormData(event.target));
  event.target.reset();
  const { presets } = (await saying(() => get("/api/presets"))) ?? {};
  if (!presets) return;
  const mine = { name: String(name).trim(), ...choices.order };
  const result = await saying(() => post("/api/presets", { presets: [...presets.filter((one) => one.name !== mine.name), mine] }));
  if (!result) return;
  tags.keep(result.presets, mine.name);
  notice(`${mine.name} is kept with this library.`);
});

addEventListener("keydown", (event) => {
  if (event.key === "Escape" && !document.querySelector("dialog[open]")) location.href = `/scenes/${part("page").dataset.scene}`;
});

tags.tie(0);
