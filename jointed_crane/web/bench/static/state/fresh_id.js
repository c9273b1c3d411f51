/** A fresh id for what an edit adds. */
export const freshId = () =>
  crypto.getRandomValues(new Uint32Array(2)).reduce((text, part) => text + part.toString(16).padStart(8, "0"), "");
