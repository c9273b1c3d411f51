// Scenes on their way out.

import { getFile, Refusal } from "./api.js";
import { notice } from "./notices.js";
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

/** Puts a picture that the server makes on the clipboard. */
export async function copyPicture(path) {
  const { bytes } = await getFile(path);
  try {
    await navigator.clipboard.write([new ClipboardItem({ "image/png": bytes })]);
  } catch {
    throw new Refusal({
      status: 0,
      detail: "The browser does not let pictures onto the clipboard here. Send a still picture out instead.",
    });
  }
  notice("The picture of this frame is on the clipboard.");
}
