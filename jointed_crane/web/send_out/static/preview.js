// One frame as it is sent, and what was sent as it plays.

import { getFile, postFile } from "../api.js";

/** What a change waits for others to follow it, ms. */
const PAUSE = 150;
/** Ways whose one frame can be looked at as it is written. */
const AS_WRITTEN = ["gif", "webp", "apng"];
/** Nothing is shown wider than this, px. */
const LARGEST = 1400;

export class Preview {
  /** Shows the frame of the slider as it is chosen; `moved` is called when it is another one. */
  constructor(part, known, path, moved) {
    this.known = known;
    this.path = path;
    this.stage = part("stage");
    this.picture = part("preview");
    this.words = part("preview-words");
    this.tag = part("frame-tag");
    this.slider = part("frame");
    this.slider.max = String(known.length - 1);
    this.slider.value = new URLSearchParams(location.hash.slice(1)).get("frame") ?? String(Math.floor(known.length / 3));
    this.newest = 0;
    this.waiting = 0;
    this.slider.addEventListener("input", () => {
      this.show(this.choices, this.filling);
      moved();
    });
  }

  get frame() {
    return Number(this.slider.value);
  }

  /** Shows a frame as it is chosen; with a table of one row as that fills it. */
  show(choices, filling = null) {
    this.choices = choices;
    this.filling = filling;
    const { first = 0, last = this.known.length - 1 } = choices.order.choices;
    const share = (frame) => `${(100 * frame) / Math.max(this.known.length - 1, 1)}%`;
    this.slider.style.setProperty("--from", share(first));
    this.slider.style.setProperty("--to", share(last));
    this.slider.classList.toggle("send-frame-span", choices.knows("last"));
    this.tag.textContent = this.slider.value;
    clearTimeout(this.waiting);
    this.waiting = setTimeout(() => this.draw(), PAUSE);
  }

  /** How large the picture is, of the stage: no larger than it is seen here; what is small is as small as it is. */
  scale() {
    const { choices } = this.choices.order;
    const scale = choices.height ? choices.height / this.known.stage[1] : (choices.scale ?? 1);
    return Math.min(scale, LARGEST / this.known.stage[0]);
  }

  /** What is shown where a row fills the scene. */
  filled() {
    const choices = { ...this.choices.chosenFor("still"), height: undefined, scale: this.scale(), frame: this.frame };
    return { way: "still", choices, filling: this.filling };
  }

  /** The address of the picture that is shown. */
  address() {
    const { way } = this.choices.order;
    const drawn = AS_WRITTEN.includes(way) ? way : "still";
    const query = this.choices.query(drawn);
    query.delete("height");
    query.set("scale", String(this.scale()));
    for (const end of drawn === "still" ? ["frame"] : ["from", "to"]) query.set(end, this.slider.value);
    return `${this.path}/send/${drawn}?${query}`;
  }

  async draw() {
    this.newest += 1;
    const number = this.newest;
    try {
      const { bytes } = this.filling ? await postFile(`${this.path}/variant`, this.filled()) : await getFile(this.address());
      if (number !== this.newest) return;
      this.put(URL.createObjectURL(bytes));
    } catch (error) {
      if (error.status === undefined) throw error;
      if (number === this.newest) this.say(error.message);
    }
  }

  put(address) {
    URL.revokeObjectURL(this.picture.src);
    this.picture.src = address;
    this.say("");
  }

  say(sentence) {
    this.stage.querySelector("video")?.remove();
    this.words.textContent = sentence;
    this.words.hidden = !sentence;
    this.picture.hidden = Boolean(sentence);
  }

  /** Shows the file of something that was sent: it plays where the browser can play it. */
  play(sending, address) {
    this.newest += 1;
    if (!["webm", "mp4"].includes(sending.way)) return this.put(address);
    this.say("");
    const film = document.createElement("video");
    Object.assign(film, { src: address, controls: true, loop: true, autoplay: true, muted: true });
    film.setAttribute("aria-label", sending.file_name);
    this.picture.hidden = true;
    this.stage.append(film);
  }
}
