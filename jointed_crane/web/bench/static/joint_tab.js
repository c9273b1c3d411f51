// The Joint tab of the card: seat, eyelets, ranges, what is inherited, and the round ends of the joint.

import { get } from "/static/api.js";
import { saying } from "/static/notices.js";
import { pin, readable, svg } from "./drawing.js";
import { mountField, nameInput } from "./fields.js";
import { ringsPath } from "./figures.js";
import { freshId } from "./state.js";

export function mountJointTab(root, bench, acts, previewer, isOpen) {
  const find = (name) => root.querySelector(`[data-joint="${name}"]`);
  const part = () => bench.part(bench.lead);
  const draws = [];
  let gaps = [];

  // The seat

  find("seat").addEventListener("change", (event) => {
    const eyelet = event.target.value;
    if (!eyelet) return acts.unseat();
    return bench.keep([{ edit: "seat", parts: [bench.lead], eyelet, frame: bench.at }]);
  });
  find("make").addEventListener("click", () => acts.makeJoints());
  const pattern = find("pattern").querySelector("input");
  pattern.addEventListener("keydown", (event) => event.stopPropagation());
  find("seat-all").addEventListener("click", () => acts.seatAll(pattern.value || "{name}"));
  find("gaps").addEventListener("click", () => {
    find("gap-list").hidden = !find("gap-list").hidden;
    find("pattern").hidden = find("gap-list").hidden;
    drawGaps();
  });

  const gapText = (distance) => `${readable(distance, distance < 0.1 ? 6 : 2)} px`;

  function drawSeat() {
    const { parent, seat } = part();
    const eyelets = parent ? bench.part(parent).eyelets : [];
    const nothing = parent ? (eyelets.length ? "no eyelet, free" : `${bench.part(parent).name} has no eyelets`) : "no parent";
    find("seat").replaceChildren(new Option(nothing, ""), ...eyelets.map((eyelet) => new Option(`${eyelet.name} of ${bench.part(parent).name}`, eyelet.id)));
    find("seat").value = seat ?? "";
    find("seat").disabled = !eyelets.length;
    find("make").disabled = !parent;
  }

  function drawGaps() {
    const own = gaps.find((gap) => gap.part === bench.lead);
    find("gap").textContent = own ? `gap ${gapText(own.distance)}` : "";
    find("gap").classList.toggle("text-coral-ink", Boolean(own) && own.distance > 0.01);
    if (find("gap-list").hidden) return;
    const rows = gaps.map((gap) => {
      const row = document.createElement("li");
      const name = document.createElement("button");
      name.className = "hover:underline";
      name.textContent = bench.part(gap.part)?.name ?? "";
      name.addEventListener("click", () => bench.pick([gap.part]));
      const distance = document.createElement("span");
      distance.textContent = `${gapText(gap.distance)}${gap.is_seated ? "" : " · not seated"}`;
      if (gap.distance > 0.01) distance.className = "text-coral-ink";
      row.className = "flex justify-between gap-2";
      row.append(name, distance);
      return row;
    });
    if (!rows.length) rows.push("No part has an eyelet to lie in yet.");
    find("gap-list").replaceChildren(...rows);
  }

  /** Gaps and round ends are computed by the server; they follow kept edits, not every step of a drag. */
  async function ask() {
    if (!bench.lead || !isOpen()) return;
    const asked = (ask.number = (ask.number ?? 0) + 1);
    const id = bench.lead;
    await bench.work;
    const found = await saying(() => get(`${bench.path}/gaps?frame=${bench.at ?? "rest"}`));
    if (!found || asked !== ask.number) return;
    gaps = found.gaps;
    if (!bench.parts.has(id)) return;
    drawGaps();
    const { joint } = await get(`${bench.path}/joints/${id}`).catch(() => ({ joint: null }));
    if (asked === ask.number) drawRound(id, joint);
  }

  // Eyelets

  find("add").addEventListener("click", async () => {
    const box = bench.drawingOf(bench.lead)?.bounds;
    const point = box ? [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2] : part().pivot.slice(0, 2);
    const eyelet = freshId();
    if (await bench.keep([{ edit: "add_eyelet", part: bench.lead, id: eyelet, point, frame: bench.at }])) bench.pickSpot({ part: bench.lead, eyelet });
  });

  function drawEyelets() {
    const rows = part().eyelets.map((eyelet) => {
      const row = document.createElement("li");
      row.className = "flex items-center gap-1.5";
      const rename = (to) => bench.keep([{ edit: "rename_eyelet", part: bench.lead, eyelet: eyelet.id, name: to }]).then((kept) => kept ?? drawEyelets());
      const name = nameInput(eyelet.name, `Name of eyelet ${eyelet.name}`, "h-6 min-w-0 grow rounded-md border border-line bg-card px-1.5", rename);
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
    });
    if (!rows.length) {
      const empty = document.createElement("li");
      empty.className = "text-small text-mute";
      empty.textContent = "None yet. An eyelet is where a child’s pivot belongs.";
      rows.push(empty);
    }
    find("eyelets").replaceChildren(...rows);
  }

  // Ranges and locks

  for (const [end, index] of [["low", 0], ["high", 1]])
    for (const element of root.querySelectorAll(`[data-${end}]`)) {
      const channel = element.dataset[end];
      const limit = () => part().limits[channel] ?? [null, null];
      const edits = (value) => {
        const next = [...limit()];
        next[index] = value;
        return [{ edit: "set_limits", parts: bench.picked, channel, low: next[0], high: next[1] }];
      };
      draws.push(mountField(element, { read: () => (bench.lead ? limit()[index] : null), edits, isOpen: true, step: channel.startsWith("scale") ? 0.05 : 1, digits: 3 }, bench, previewer));
    }
  for (const box of root.querySelectorAll("[data-fixed]"))
    box.addEventListener("change", () => bench.keep([{ edit: "fix_channels", parts: bench.picked, channels: [box.dataset.fixed], fixed: box.checked }]));
  for (const box of root.querySelectorAll("[data-inherits]"))
    box.addEventListener("change", () => {
      const inherits = { ...part().inherits, [box.dataset.inherits]: box.checked };
      bench.keep(bench.picked.map((id) => ({ edit: "set_placement", part: id, inherits })));
    });

  // Round ends

  function drawRound(id, joint) {
    find("round").hidden = !joint;
    if (!joint) return;
    const { child, parent, difference } = joint;
    const names = [bench.part(id).name, bench.part(bench.part(id).parent)?.name];
    find("radii").textContent = child && parent ? `${names[0]} ${readable(child, 1)} px, ${names[1]} ${readable(parent, 1)} px; ${difference < 0.05 ? "equal" : `${readable(difference, 1)} px apart`}.` : "The pivot lies outside one of the two arts, so the joint opens.";
    joint.ends.forEach((end, index) => drawEnd(find(`end-${index}`), id, joint, end));
  }

  function drawEnd(picture, id, joint, end) {
    const own = bench.part(id);
    const parent = bench.part(own.parent);
    const [a, b, c, d, e, f] = end.matrix;
    const at = [a * own.pivot[0] + c * own.pivot[1] + e, b * own.pivot[0] + d * own.pivot[1] + f];
    const reach = Math.max(joint.child, joint.parent, 8) * 3;
    picture.setAttribute("viewBox", `${at[0] - reach * 1.4} ${at[1] - reach} ${reach * 2.8} ${reach * 2}`);
    const shape = (drawing, matrix, colour) => svg("path", { d: ringsPath(drawing.outline), transform: `matrix(${matrix.join(" ")})`, class: colour, "fill-rule": "evenodd", "fill-opacity": 0.75 });
    const sign = pin(at[0], at[1], { size: 5 });
    sign.setAttribute("transform", `translate(${at[0]} ${at[1]}) scale(${reach / 60})`);
    const tag = svg("text", { x: at[0] - reach * 1.32, y: at[1] - reach * 0.74, class: "fill-ink", "font-size": reach * 0.24 }, `${readable(end.turn, 1)}°`);
    picture.replaceChildren(shape(parent.drawings[0], joint.parent_matrix, "fill-mute"), shape(bench.drawingOf(id) ?? own.drawings[0], end.matrix, "fill-brass"), sign, tag);
  }

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
