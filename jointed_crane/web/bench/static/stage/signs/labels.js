// Where names stand around their points, so that no name lies on a point or on another name while there is room.

const HEIGHT = 17;
const LETTER = 6.3; // the mean width of a letter at the size of a label, px
const AROUND = [
  [1, 0],
  [-1, 0],
  [1, -1],
  [-1, -1],
  [1, 1],
  [-1, 1],
  [0, -1],
  [0, 1],
];
const REACHES = [12, 24, 38];

const overlap = (one, other) =>
  Math.max(0, Math.min(one.x + one.width, other.x + other.width) - Math.max(one.x, other.x)) *
  Math.max(0, Math.min(one.y + HEIGHT, other.y + HEIGHT) - Math.max(one.y, other.y));

/**
 * A box for each point's name, all px on the screen: {x, y, width, height, text, from, isFar}.
 *
 * points: [{at: [x, y], name, isPicked}], the picked first in rank; a name is shortened only where the whole of it finds
 * no free place, and stands where it covers least where even the short one finds none.
 */
export function placedLabels(points) {
  const taken = points.map(({ at: [x, y] }) => ({ x: x - 10, y: y - HEIGHT / 2, width: 20 }));
  const ranked = [...points].sort((one, other) => Number(other.isPicked ?? 0) - Number(one.isPicked ?? 0));
  return ranked.map(({ at, name, isPicked }) => {
    let best = null;
    const reach = REACHES.at(-1) + HEIGHT + name.length * LETTER;
    const near = taken.filter(
      (other) => other.x < at[0] + reach && other.x + other.width > at[0] - reach && Math.abs(other.y - at[1]) < reach,
    );
    for (const text of isPicked ? [name] : [name, short(name)]) {
      for (const box of boxes(text, at)) {
        const covered = near.reduce((sum, other) => sum + overlap(box, other), 0);
        if (!best || covered < best.covered) best = { ...box, covered };
        if (!best.covered) break;
      }
      if (!best.covered) break;
    }
    taken.push(best);
    return best;
  });
}

function* boxes(text, [x, y]) {
  const width = text.length * LETTER + 10;
  for (const reach of REACHES)
    for (const [across, down] of AROUND) {
      const left = across > 0 ? x + reach : across < 0 ? x - reach - width : x - width / 2;
      // Beside a point a name is as high as the point; above and below it stands clear of it.
      const lift = across ? down * reach : down * (reach + HEIGHT / 2);
      yield { text, x: left, y: y - HEIGHT / 2 + lift, width, height: HEIGHT, from: [x, y], isFar: reach > REACHES[0] || (across && down) };
    }
}

/** "Near upper arm" as "Nua": enough to tell names apart where there is no room. */
export function short(name) {
  const words = name.split(/\s+/).filter(Boolean);
  return words.length > 1 ? words.map((word) => word[0]).join("") : name.slice(0, 4);
}
