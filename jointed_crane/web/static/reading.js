// Files on their way in.

import { post, postForm } from "./api.js";
import { watched } from "./work.js";

/** Sends files and waits for what the server makes of them; says so where it takes a while, and can be stopped. */
export function postFiles(path, files, fields = {}) {
  const form = new FormData();
  for (const file of files) form.append("files", file);
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  return watched(`Reading ${files.length === 1 ? files[0].name : `${files.length} files`}`, (headers) => postForm(path, form, headers));
}

/**
 * The files that were dropped; a folder is what is in it, folders inside included.
 * @param {DataTransfer} dropped
 * @returns {Promise<File[]>}
 */
export async function droppedFiles(dropped) {
  // What was dropped can be asked for only as long as the event lasts.
  const entries = [...dropped.items].map((item) => item.webkitGetAsEntry?.()).filter(Boolean);
  if (!entries.some((entry) => entry.isDirectory)) return [...dropped.files];
  const result = await Promise.all(entries.map(filesIn));
  return result.flat();
}

/** @returns {Promise<File[]>} */
async function filesIn(entry) {
  if (entry.isFile) return entry.name.startsWith(".") ? [] : [await new Promise((resolve, reject) => entry.file(resolve, reject))];
  const reader = entry.createReader();
  const result = [];
  // A reader gives some at a time, and none at the end.
  for (;;) {
    const some = await new Promise((resolve, reject) => reader.readEntries(resolve, reject));
    if (!some.length) break;
    result.push(...some);
  }
  return (await Promise.all(result.map(filesIn))).flat();
}

/** Sends a document whose answer takes reading pictures, said in `words` where it takes a while; it can be stopped. */
export const postRead = (path, document, words) => watched(words, (headers) => post(path, document, headers));
