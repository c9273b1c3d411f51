// Which rows the time panel lists: markers, a row for all, one for each part with its footholds and channels.

import { changesOf, facts } from "../state/facts.js";

/**
 * `find` finds what the panel holds, `draws` are {markers, cuts, stands, hands}, `redraw` draws the panel anew.
 * @param {Bench} bench
 */
export function makeListed(bench, find, draws, redraw) {
  let isWhole = false;
  const folds = new Map(); // parts whose rows are folded or unfolded by hand

  const isMoved = (/** @type {Part} */ { channels, constraints }) =>
    Object.keys(channels).length > 0 || constraints.some((one) => changesOf(one).length);
  /** What has a say in where picked parts are, where it has keys: its rows are marked. */
  const related = () => (isWhole ? [] : bench.related.filter((id) => isMoved(bench.part(id))));
  const isFolded = (id) => folds.get(id) ?? isWhole;
  function shownParts() {
    if (!isWhole) return [...bench.picked.filter((id) => bench.part(id)), ...related()];
    return bench.order.filter((id) => isMoved(bench.part(id))).reverse();
  }
  /** The channels of a part that the filter lets through, in the order of the table. */
  function channelsOf(id) {
    const { channels } = bench.part(id);
    const wanted = find("filter").value;
    const nodes = Object.keys(channels).filter((name) => !facts.channels[name]);
    return [...Object.keys(facts.channels), ...nodes].filter(
      (name) => channels[name] && (!wanted || bench.channel(name).family === wanted),
    );
  }

  return {
    fold(id) {
      folds.set(id, !isFolded(id));
      redraw();
    },
    setWhole(value) {
      isWhole = value;
      redraw();
    },
    rows() {
      /** @type {any[]} */
      const result = bench.markers.length ? [{ draw: draws.markers }] : [];
      if (bench.isDeep && bench.cuts.length) result.push({ draw: draws.cuts });
      const parts = shownParts().map((id) => /** @type {[string, string[]]} */ ([id, channelsOf(id)]));
      if (parts.length > 1)
        result.push({ name: isWhole ? "All parts" : "Picked parts", owners: parts.map(([id, channels]) => ({ id, channels })) });
      for (const [id, channels] of parts) {
        const part = bench.part(id);
        if (isWhole && !channels.length && !part.constraints.some((one) => changesOf(one).length)) continue;
        const isBeside = !isWhole && !bench.picked.includes(id);
        const name = isBeside ? `→ ${part.name}` : part.name;
        result.push({ id, name, isBeside, owners: [{ id, channels }], isFolded: isFolded(id) });
        if (isFolded(id)) continue;
        if (part.footholds.length) result.push({ id, draw: (y) => draws.stands({ id, name: part.name }, y) });
        for (const constraint of part.constraints)
          if (changesOf(constraint).length) result.push({ id, draw: (y) => draws.hands({ id, constraint }, y) });
        for (const channel of channels) result.push({ id, channel, name: bench.channelOf(id, channel) });
      }
      return result;
    },
  };
}

/** Draw anew what somebody may be on by keyboard: the focus goes to what stands in its place. */
export function keepingFocus(picture, draw) {
  const name = picture.contains(document.activeElement) ? document.activeElement.dataset.place : undefined;
  draw();
  if (name === undefined || picture.contains(document.activeElement)) return;
  [...picture.querySelectorAll("[data-place]")].find((element) => element.dataset.place === name)?.focus({ preventScroll: true });
}

/**
 * What a preview changes of the rows, as text: a hand that turns a limb changes a value, of which no row shows anything.
 * @param {Bench} bench
 */
export function changedRows(bench) {
  if (!bench.over) return "";
  const channels = (id, part) => {
    const kept = bench.parts.get(id)?.channels;
    return Object.entries(part.channels)
      .filter(([name, channel]) => channel !== kept?.[name])
      .map(([name, { keys, sway }]) => [name, !sway, keys.map(({ frame, kind, value }) => [frame, kind, name === "drawing" && value])]);
  };
  return JSON.stringify([
    bench.over.markers,
    bench.over.cuts,
    [...bench.over.parts].map(([id, part]) => [id, part.footholds, part.constraints.map(changesOf), channels(id, part)]),
  ]);
}
