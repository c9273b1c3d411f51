// Scenes on their way out.

import { getFile } from "./api.js";
import { watched } from "./work.js";

/** Has the server make a file, said in `words` where it takes a while, and the browser save it; it can be stopped. */
export async function sendOut(path, words) {
  const { name, bytes } = await watched(words, (headers) => getFile(path, headers));
  const link = document.createElement("a");
  link.href = URL.createObjectURL(bytes);
  link.download = name;
  link.click();
  // Saving has begun by the next turn at the latest; the browser holds what it still needs.
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
