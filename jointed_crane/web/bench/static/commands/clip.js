// What is copied: kept in the browser's store, so that other windows can paste it, or here where it is too large for that.

const here = new Map();

/** Keep a copy; false where only this window has it. */
export function putClip(name, value) {
  here.delete(name);
  try {
    localStorage.setItem(name, JSON.stringify(value));
    return true;
  } catch {
    // An older copy must not be pasted elsewhere in place of this one.
    localStorage.removeItem(name);
    here.set(name, value);
    return false;
  }
}

/** What was copied last, or null. */
export function clip(name) {
  return here.get(name) ?? JSON.parse(localStorage.getItem(name));
}
