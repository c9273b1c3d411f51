// The Joint tab of the card: seat, eyelets, ranges, what is inherited, and the round ends of the joint.

import { get } from "../../api.js";
import { saying } from "../../notices.js";
import { readable } from "../elements/drawing.js";
import { allow, mountField, nameInput } from "../elements/fields.js";
import { drawGaps, drawRound } from "./joint_ends.js";
import { freshId } from "../state/fresh_id.js";

/** @param {Bench} bench */
export function mountJointTab(root, bench, acts, isOpen) {
  const find = (name) => root.querySelector(`[data-joint="${name}"]`);
  const part = () => bench.part(bench.lead);
  let gaps = [];

  const drawSeat = mountSeat(find, bench, acts);
  const drawEyelets = mountEyelets(find, bench);
  const draws = mountRanges(root, bench);
  const pattern = find("pattern").querySelector("input");
  pattern.addEventListener("keydown", (event) => event.stopPropagation());
  find("seat-all").addEventListener("click", () => acts.seatAll(pattern.value || "{name}"));
  find("gaps").addEventListener("click", () => {
    find("gap-list").hidden = !find("gap-list").hidden;
    find("pattern").hidden = find("gap-list").hidden;
    drawGaps(find, bench, gaps);
  });

  let newest = 0; // the asking that counts

  /** Gaps and round ends are computed by the server; they follow kept edits, not every step of a drag. */
  async function ask() {
    if (!bench.lead || !isOpen()) return;
    const asked = ++newest;
    const id = bench.lead;
    await bench.work;
    const result = await saying(() => get(`${bench.path}/gaps?frame=${bench.at ?? "rest"}`));
    if (!result || asked !== newest) return;
    gaps = result.gaps;
    if (!bench.parts.has(id)) return;
    drawGaps(find, bench, gaps);
    const { joint } = await get(`${bench.path}/joints/${id}`).catch(() => ({ joint: null }));
    if (asked === newest) drawRound(find, bench, id, joint);
  }

  mountSwitches(root, bench);

  function draw() {
    if (!bench.lead) return;
    drawSeat();
    drawEyelets();
    for (const field of draws) field();
    for (const box of root.querySelectorAll("[data-fixed]")) box.checked = part().fixed.includes(box.dataset.fixed);
    for (const box of root.querySelectorAll("[data-inherits]")) box.checked = part().inherits[box.dataset.inherits];
  }

  return { draw, ask };
}

/**
 * The eyelet that the part is seated in; what it gives draws it anew.
 * @param {any} find
 * @param {Bench} bench
 */
function mountSeat(find, bench, acts) {
  find("seat").addEventListener("change", (event) => {
    const eyelet = event.target.value;
    if (!eyelet) return acts.unseat();
    return bench.keep([{ edit: "seat", parts: [bench.lead], eyelet, frame: bench.at }]);
  });
  find("make").addEventListener("click", () => acts.makeJoints());
  find("into").addEventListener("click", () => acts.intoRoundEnd());
  find("patch").addEventListener("click", () => acts.addRoundPatch());

  return () => {
    const { parent, seat } = bench.part(bench.lead);
    const eyelets = parent ? bench.part(parent).eyelets : [];
    const nothing = parent ? (eyelets.length ? "no eyelet, free" : `${bench.part(parent).name} has no eyelets`) : "no parent";
    find("seat").replaceChildren(
      new Option(nothing, ""),
      ...eyelets.map((eyelet) => new Option(`${eyelet.name} of ${bench.part(parent).name}`, eyelet.id)),
    );
    find("seat").value = seat ?? "";
    const { name } = bench.part(bench.lead);
    allow(find("seat"), eyelets.length, parent ? `${bench.part(parent).name} has no eyelets yet` : `${name} has no parent`);
    allow(find("make"), parent, `${name} has no parent: join it first`);
  };
}

/**
 * The list of the part's eyelets and the button that adds one; what it gives draws the list anew.
 * @param {any} find
 * @param {Bench} bench
 */
function mountEyelets(find, bench) {
  find("add").addEventListener("click", async () => {
    const box = bench.drawingOf(bench.lead)?.bounds;
    const point = box ? [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2] : bench.part(bench.lead).pivot.slice(0, 2);
    const eyelet = freshId();
    if (await bench.keep([{ edit: "add_eyelet", part: bench.lead, id: eyelet, point, frame: bench.at }]))
      bench.pickSpot({ part: bench.lead, eyelet });
  });

  function drawEyelets() {
    const rows = bench.part(bench.lead).eyelets.map((eyelet) => eyeletRow(bench, eyelet, drawEyelets));
    if (!rows.length) {
      const empty = document.createElement("li");
      empty.className = "text-small text-mute";
      empty.textContent = "None yet. An eyelet is where a child’s pivot belongs.";
      rows.push(empty);
    }
    find("eyelets").replaceChildren(...rows);
  }
  return drawEyelets;
}

/**
 * The ends of the part's turning and other ranges; what draws each of them anew.
 * @param {any} root
 * @param {Bench} bench
 */
function mountRanges(root, bench) {
  const draws = [];
  for (const [end, index] of [
    ["low", 0],
    ["high", 1],
  ])
    for (const element of root.querySelectorAll(`[data-${end}]`)) {
      const channel = element.dataset[end];
      const limit = () => bench.part(bench.lead).limits[channel] ?? [null, null];
      const edits = (value) => {
        const next = [...limit()];
        next[index] = value;
        return [{ edit: "set_limits", parts: bench.picked, channel, low: next[0], high: next[1] }];
      };
      draws.push(
        mountField(
          element,
          {
            read: () => (bench.lead ? limit()[index] : null),
            edits,
            isOpen: true,
            step: bench.channel(channel).family === "scale" ? 0.05 : 1,
            digits: 3,
          },
          bench.previewer,
        ),
      );
    }
  return draws;
}

/**
 * One eyelet of the part: its name, which may be changed, its place, and the button that deletes it.
 * @param {Bench} bench
 */
function eyeletRow(bench, eyelet, redraw) {
  const row = document.createElement("li");
  row.className = "flex items-center gap-1.5";
  const rename = (to) =>
    bench.keep([{ edit: "rename_eyelet", part: bench.lead, eyelet: eyelet.id, name: to }]).then((kept) => kept ?? redraw());
  const name = nameInput(
    eyelet.name,
    `Name of eyelet ${eyelet.name}`,
    "h-6 min-w-0 grow rounded-md border border-line bg-card px-1.5",
    rename,
  );
  name.addEventListener("focus", () => bench.spot?.eyelet !== eyelet.id && bench.pickSpot({ part: bench.lead, eyelet: eyelet.id }));
  const place = document.createElement("span");
  place.className = "shrink-0 text-small text-mute";
  place.textContent = `${readable(eyelet.point[0], 1)}, ${readable(eyelet.point[1], 1)}`;
  const remove = document.createElement("button");
  remove.className = "button button-small px-1.5!";
  remove.textContent = "×";
  remove.setAttribute("aria-label", `Delete eyelet ${eyelet.name}`);
  remove.addEventListener("click", () => bench.keep([{ edit: "delete_eyelet", part: bench.lead, eyelet: eyelet.id }]));
  row.append(name, place, remove);
  return row;
}

/**
 * What is fixed, and what is inherited from the parent: switches for all picked parts.
 * @param {Bench} bench
 */
function mountSwitches(root, bench) {
  for (const box of root.querySelectorAll("[data-fixed]"))
    box.addEventListener("change", () =>
      bench.keep([{ edit: "fix_channels", parts: bench.picked, channels: [box.dataset.fixed], fixed: box.checked }]),
    );
  for (const box of root.querySelectorAll("[data-inherits]"))
    box.addEventListener("change", () => {
      const inherits = { ...bench.part(bench.lead).inherits, [box.dataset.inherits]: box.checked };
      bench.keep(bench.picked.map((id) => ({ edit: "set_placement", part: id, inherits })));
    });
}
