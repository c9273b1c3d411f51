// Rows of the tree finished bit by bit.

let unfinished = [];
let starting = null;
let finishing = null;

/**
 * Rows come in unfinished: the browser lays out only those in sight. The others are finished bit by bit once the tree
 * has been quiet for a while; scrolling then moves a finished picture and does not compose the page anew.
 */
export function finishSoon(elements) {
  for (const element of elements) element.classList.remove("is-finished");
  unfinished = [...elements];
  clearTimeout(starting);
  cancelIdleCallback(finishing);
  starting = setTimeout(finishSome, 400);
}
function finishSome() {
  for (const element of unfinished.splice(0, 20)) element.classList.add("is-finished");
  if (unfinished.length) finishing = requestIdleCallback(finishSome);
}
