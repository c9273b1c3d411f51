// Sizes and times in words.

/** Bytes as people say them. */
export function sizeOf(bytes) {
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`;
  return bytes >= 1e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${Math.max(1, Math.round(bytes / 1000))} kB`;
}

/** Seconds as people say them. */
export function timeOf(seconds) {
  if (seconds >= 90) return `${Math.round(seconds / 60)} min`;
  return seconds < 1 ? "1 s" : `${Math.round(seconds)} s`;
}

/** A moment as people say it: today by its time, else by its day. */
export function momentOf(words) {
  const moment = new Date(words);
  const time = moment.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  if (moment.toDateString() === new Date().toDateString()) return `today ${time}`;
  return `${moment.toLocaleDateString("en-GB", { day: "numeric", month: "short" })} ${time}`;
}
