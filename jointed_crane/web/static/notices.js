// Short sentences at the foot of the page; refusals stay longer and can be closed.

const holder = document.querySelector("#notices");

export function notice(text, { isRefusal = false, action = null } = {}) {
  const line = document.createElement("div");
  line.className = isRefusal ? "notice notice-refusal" : "notice";
  const words = document.createElement("span");
  words.textContent = text;
  line.append(words);
  if (action) {
    const button = document.createElement("button");
    button.className = "shrink-0 font-bold underline";
    button.textContent = action.label;
    button.addEventListener("click", () => {
      line.remove();
      action.run();
    });
    line.append(button);
  }
  const close = document.createElement("button");
  close.className = "shrink-0 opacity-80";
  close.textContent = "×";
  close.setAttribute("aria-label", "Close this notice");
  close.addEventListener("click", () => line.remove());
  line.append(close);
  // The same said again takes the place of what was said before.
  for (const other of holder.children) if (other.firstChild?.textContent === text) other.remove();
  holder.append(line);
  while (holder.children.length > 3) holder.firstElementChild.remove();
  setTimeout(() => line.remove(), isRefusal ? 12000 : 5000);
}

/** Runs something that may be refused; says why where it is. */
export async function saying(act) {
  try {
    return await act();
  } catch (error) {
    if (error.status === undefined) throw error;
    notice(error.message, { isRefusal: true });
    return null;
  }
}
