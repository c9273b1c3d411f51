// Links as rows: what drives a channel of a part, by an amount or a curve through points; on the board and on the card.

import { readable } from "../elements/drawing.js";
import { mountField, smallButton } from "../elements/fields.js";

/**
 * A channel of a part as people say it.
 * @param {Bench} bench
 */
export function channelWords(bench, id, channel) {
  const { name, kind, lever } = bench.part(id);
  return kind === "lever" && lever.axes.length === 1 ? name : `${bench.channel(channel).label} of ${name}`;
}

/**
 * What gives rows; `template` holds an empty number field, and `draws` takes what draws the numbers anew.
 * @param {Bench} bench
 */
export function makeLinkRows(bench, template, draws) {
  const { previewer } = bench;
  const current = (part, id) => bench.part(part)?.links.find((link) => link.id === id);
  /** @returns {Edit[]} */
  const changed = (part, id, fields) => [{ edit: "link", part, link: { ...current(part, id), ...fields } }];

  function field(label, read, edits, extra = {}) {
    const element = template.content.firstElementChild.cloneNode(true);
    element.classList.add("grow", "basis-20");
    element.querySelector("input").setAttribute("aria-label", label);
    element.querySelector(".unit").textContent = "×";
    draws.push(mountField(element, { read, edits, step: 1, digits: 6, ...extra }, previewer));
    return element;
  }

  function points(part, link, words) {
    const now = (index) => current(part, link.id)?.points[index];
    const set = (index, place) => (value) =>
      changed(part, link.id, {
        points: current(part, link.id).points.map((point, at) => (at === index ? point.with(place, value) : point)),
      });
    const rows = link.points.map((_, index) => {
      const row = document.createElement("span");
      row.className = "grid w-full grid-cols-[1fr_1fr_auto] gap-1";
      const at = field(`Point ${index + 1} of ${words}, value of what drives`, () => now(index)?.[0] ?? null, set(index, 0), { step: 0.1 });
      const adds = field(`Point ${index + 1} of ${words}, what is added`, () => now(index)?.[1] ?? null, set(index, 1), { neutral: 0 });
      at.querySelector(".unit").textContent = "at";
      adds.querySelector(".unit").textContent = "adds";
      const without = link.points.filter((_, other) => other !== index);
      row.append(
        at,
        adds,
        smallButton("×", `Delete point ${index + 1}`, () => bench.keep(changed(part, link.id, { points: without }))),
      );
      return row;
    });
    const add = smallButton("Add a point", `${words}: one more point`, () =>
      bench.keep(changed(part, link.id, { points: withOneMore(link.points) })),
    );
    return [picture(link.points), ...rows, add];
  }

  /** A link of a part; its other end is named: what drives, or with `isFromSource` what is driven. */
  return function linkRow(part, link, isFromSource) {
    const words = isFromSource ? channelWords(bench, part, link.onto) : channelWords(bench, link.source, link.channel);
    const item = document.createElement("li");
    item.className = "rounded-md border border-line-soft bg-tray px-2 py-1";
    item.dataset.link = link.id;
    item.append(headOf(bench, part, link, isFromSource, words));
    const under = document.createElement("div");
    under.className = "mt-1 flex flex-wrap items-center gap-1";
    if (link.points.length) under.append(...points(part, link, words));
    else {
      under.append(
        field(
          `Amount of ${words}`,
          () => current(part, link.id)?.amount ?? null,
          (amount) => changed(part, link.id, { amount }),
          { neutral: 0 },
        ),
      );
      under.append(
        smallButton("Curve", `${words}: a curve through points`, () => bench.keep([{ edit: "link_as_curve", part, link: link.id }])),
      );
    }
    item.append(under);
    return item;
  };
}

/** Points with one more, as far on as the last two are apart. */
function withOneMore(points) {
  const [x, y] = points.at(-1);
  const [bx, by] = points.at(-2) ?? [x - 1, y];
  return [...points, [x + (x - bx), y + (y - by)]];
}

/** The curve as a small picture. */
function picture(points) {
  const [width, height] = [200, 34];
  const [xs, ys] = [0, 1].map((place) => points.map((point) => point[place]));
  const scaled = (value, values, size) =>
    ((value - Math.min(...values)) / (Math.max(...values) - Math.min(...values) || 1)) * (size - 8) + 4;
  const at = points.map(([x, y]) => `${readable(scaled(x, xs, width), 1)} ${readable(height - scaled(y, ys, height), 1)}`);
  const holder = document.createElement("span");
  holder.className = "w-full text-lagoon";
  const image = document.createElementNS("http://www.w3.org/2000/svg", "svg");
  image.setAttribute("viewBox", `0 0 ${width} ${height}`);
  image.setAttribute("class", "h-8 w-full");
  image.setAttribute("aria-hidden", "true");
  const line = document.createElementNS(image.namespaceURI, "polyline");
  for (const [name, value] of Object.entries({ points: at.join(","), fill: "none", stroke: "currentColor", "stroke-width": 2 }))
    line.setAttribute(name, value);
  image.append(line);
  holder.append(image);
  return holder;
}

/**
 * What a link joins, as a button that picks it, and a button that deletes the link.
 * @param {Bench} bench
 */
function headOf(bench, part, link, isFromSource, words) {
  const head = document.createElement("div");
  head.className = "flex items-center gap-1";
  const name = document.createElement("button");
  name.className = "min-w-0 grow truncate text-left text-small hover:underline";
  name.textContent = isFromSource ? words : `${bench.channel(link.onto).label} by ${words}`;
  name.title = `Pick ${bench.part(isFromSource ? part : link.source).name}`;
  name.addEventListener("click", () => bench.pick([isFromSource ? part : link.source]));
  const gone = smallButton("×", `Delete the link: ${words}`, () => bench.keep([{ edit: "unlink", part, link: link.id }]));
  head.append(name, gone);
  return head;
}
