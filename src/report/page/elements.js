// Elements put together; texts go in as texts.

function element(name, attributes = {}, ...children) {
  const made = document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) {
    if (key.startsWith("on")) made.addEventListener(key.slice(2), value);
    else if (value === true) made.setAttribute(key, "");
    else if (value !== false && value !== undefined && value !== null) made.setAttribute(key, value);
  }
  made.append(...children.flat().filter((child) => child !== null && child !== undefined && child !== false));
  return made;
}

const choices = (list, chosen) => list.map(([value, text]) => element("option", { value, selected: String(value) === String(chosen) }, text ?? String(value)));

/** A labelled control; `attributes` are the control's. */
function select(label, list, chosen, onchange) {
  const control = element("select", { onchange: () => onchange(control.value) }, choices(list, chosen));
  return element("label", {}, label, control);
}

function slider(label, { min, max, step = 1, value }, text, onchange) {
  const shown = element("output", {}, text(value));
  const control = element("input", { type: "range", min, max, step, value, "aria-valuetext": text(value) });
  control.addEventListener("input", () => {
    shown.textContent = text(control.valueAsNumber);
    control.setAttribute("aria-valuetext", text(control.valueAsNumber));
    onchange(control.valueAsNumber);
  });
  return element("label", {}, label, control, shown);
}

function number(label, { min, max, step, value }, onchange) {
  const control = element("input", { type: "number", min, max, step, value });
  control.addEventListener("change", () => {
    if (Number.isFinite(control.valueAsNumber)) onchange(control.valueAsNumber);
  });
  return element("label", {}, label, control);
}

const panel = (title, ...children) => element("section", { class: "panel", "aria-label": title }, element("h3", {}, title), ...children);

function bytesText(bytes) {
  const units = ["bytes", "KiB", "MiB", "GiB"];
  let unit = 0, size = bytes;
  while (size >= 1024 && unit < 3) {
    size /= 1024;
    ++unit;
  }
  return `${unit === 0 ? size : size.toFixed(size < 10 ? 2 : size < 100 ? 1 : 0)} ${units[unit]}`;
}

const counted = (count, noun) => `${count} ${noun}${count === 1 ? "" : "s"}`;

function sizeText({ width, height, depth, layers, faces }) {
  const parts = [`${width} \u00d7 ${height}${depth > 1 ? ` \u00d7 ${depth}` : ""}`];
  if (faces === 6) parts.push("cube");
  if (layers > 1) parts.push(counted(layers, "layer"));
  return parts.join(", ");
}

/** Waits until nothing new came for a frame, then works; the last call wins. */
function coalesced(work) {
  let isWaiting = false;
  return () => {
    if (isWaiting) return;
    isWaiting = true;
    requestAnimationFrame(async () => {
      isWaiting = false;
      await work();
    });
  };
}
