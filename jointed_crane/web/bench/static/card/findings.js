// The count of findings beside “Check”: asked for a moment after the last change, so that no edit waits for it.

import { get } from "../../api.js";

const QUIET = 700;

/** @param {Bench} bench */
export function mountFindings(element, bench) {
  let timer = null;
  async function ask() {
    const answer = await get(`${bench.path}/findings`).catch(() => null);
    if (!answer) return;
    const count = answer.findings.length;
    element.hidden = count === 0;
    element.textContent = count;
    element.title = answer.findings.map((finding) => finding.sentence).join("\n");
  }
  bench.on("scene", () => {
    clearTimeout(timer);
    timer = setTimeout(ask, QUIET);
  });
}
