// Talks to the server: JSON in and out, the CSRF token on every change, refusals as errors with their sentence.

const token = document.querySelector("meta[name=csrf-token]").content;

/** The server said no, or could not be reached; the message is for the user. */
export class Refusal extends Error {
  constructor(problem) {
    super(problem.detail);
    this.status = problem.status;
    this.version = problem.version;
  }
}

async function answer(path, options) {
  let response;
  try {
    response = await fetch(path, options);
  } catch {
    throw new Refusal({ status: 0, detail: "The server does not answer. Everything kept so far is stored; start it again and go on." });
  }
  if (response.ok) return response;
  const type = response.headers.get("content-type") ?? "";
  if (type.includes("json")) throw new Refusal(await response.json());
  throw new Refusal({ status: response.status, detail: "The server gave no readable answer. Nothing was changed." });
}

export async function get(path) {
  return read(await answer(path));
}

/** An answer's document. Its maps by ids know no names but their own: a part may be called "constructor". */
async function read(response) {
  const document = await response.json();
  for (const map of [...Object.values(document.pose ?? {}), document.shapes])
    if (map && typeof map === "object" && !Array.isArray(map)) Object.setPrototypeOf(map, null);
  return document;
}

/** Sends a document; `headers` come on top of the token. */
export async function post(path, document = {}, headers = {}) {
  const all = { "Content-Type": "application/json", "X-CSRFToken": token, ...headers };
  return read(await answer(path, { method: "POST", headers: all, body: JSON.stringify(document) }));
}

/** Sends a form; `headers` come on top of the token. */
export async function postForm(path, form, headers = {}) {
  return read(await answer(path, { method: "POST", headers: { "X-CSRFToken": token, ...headers }, body: form }));
}

/** Sends a document and gives the file that comes back. */
export async function postFile(path, document) {
  const headers = { "Content-Type": "application/json", "X-CSRFToken": token };
  const response = await answer(path, { method: "POST", headers, body: JSON.stringify(document) });
  return { bytes: await response.blob() };
}

/** A file and the name under which it wants to be saved. */
export async function getFile(path, headers = {}) {
  const response = await answer(path, { headers });
  const [, name] = /filename="([^"]+)"/.exec(response.headers.get("content-disposition") ?? "") ?? [null, "scene"];
  return { name, bytes: await response.blob() };
}

/** Bytes, and the version of the scene that they belong to. */
export async function getBytes(path) {
  const response = await answer(path);
  return { bytes: await response.arrayBuffer(), version: Number(response.headers.get("X-Scene-Version")) };
}
