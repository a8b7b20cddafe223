// @ts-check
"use strict";

/** What pages of one family have in common: numbers and texts as people read them, elements, blocks of packed data. */

const numberFormat = new Intl.NumberFormat("en");

/** A whole number with a comma between each three digits.
 * @param {number} number
 */
const grouped = (number) => numberFormat.format(number);

/** A part of one in per cent.
 * @param {number} part
 */
// What is there is never told as nothing.
const share = (part) => part > 0 && part < 0.0005 ? "<0.1 %" : (part * 100).toFixed(1) + " %";

/** A number with its noun.
 * @param {number} number
 * @param {string} noun
 */
const counted = (number, noun) => grouped(number) + " " + noun + (number === 1 ? "" : "s");

/** A text in which what could turn the direction of the text around it, or cannot be seen, is shown by its number.
 * @param {unknown} text
 */
const visible = (text) => String(text).replace(/[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ufffe\uffff]/g,
  (c) => "\\u{" + (c.codePointAt(0) || 0).toString(16) + "}");

/** @typedef {Node | string | number | null | undefined} Part */

/** An element that holds texts, which are shown as they are, and other elements.
 * @param {string} name
 * @param {Part | Part[]} [content]
 * @param {string} [kind] its class
 * @returns {HTMLElement}
 */
const make = (name, content, kind) => {
  const element = document.createElement(name);
  if (kind) { element.className = kind; }
  const parts = Array.isArray(content) ? content : [content];
  parts.forEach((part) => {
    if (part !== null && part !== undefined) { element.append(part instanceof Node ? part : visible(part)); }
  });
  return element;
};

/** A button.
 * @param {Part | Part[]} content
 * @param {() => void} pressed
 * @param {string} [kind]
 */
const button = (content, pressed, kind) => {
  const element = /** @type {HTMLButtonElement} */ (make("button", content, kind));
  element.type = "button";
  element.addEventListener("click", pressed);
  return element;
};

/** The element of the page with this id.
 * @param {string} id
 * @returns {HTMLElement}
 */
const byId = (id) => {
  const element = document.getElementById(id);
  if (!element) { throw new Error("no element " + id); }
  return element;
};

/** A table of cells; a cell that is a number stands at the right.
 * @param {string[]} titles
 * @param {Part[][]} rows
 * @param {string} name
 */
const plainTable = (titles, rows, name) => {
  const cell = (/** @type {string} */ kind, /** @type {Part} */ content) => make(kind, typeof content === "number" ? grouped(content) : content, typeof content === "number" ? "number" : "");
  const head = make("tr", titles.map((title, place) => {
    const column = cell("th", title);
    column.setAttribute("scope", "col");
    if (rows.length && typeof rows[0][place] === "number") { column.className = "number"; }
    return column;
  }));
  const table = make("table", [make("thead", head), make("tbody", rows.map((row) => make("tr", row.map((content) => cell("td", content)))))]);
  table.setAttribute("aria-label", name);
  return table;
};

/** @type {Map<string, Promise<any>>} */
const unpackedBlocks = new Map();

/** The value that a packed block of the page holds: JSON, gzip, base64. It is unpacked once.
 * @param {string} id
 * @returns {Promise<any>}
 */
const unpacked = (id) => {
  const known = unpackedBlocks.get(id);
  if (known) { return known; }
  const value = (async () => {
    const packed = atob((byId(id).textContent || "").trim());
    const bytes = new Uint8Array(packed.length);
    for (let at = 0; at < packed.length; at += 1) { bytes[at] = packed.charCodeAt(at); }
    const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream("gzip"));
    return new Response(stream).json();
  })();
  unpackedBlocks.set(id, value);
  return value;
};

/** Begins something once an element comes near to what is seen, or the page is printed.
 * @param {Element} element
 * @param {() => void} begin
 */
const whenNear = (element, begin) => {
  let begun = false;
  const once = () => {
    if (!begun) {
      begun = true;
      watcher.disconnect();
      begin();
    }
  };
  const watcher = new IntersectionObserver((seen) => { if (seen.some((one) => one.isIntersecting)) { once(); } }, { rootMargin: "400px" });
  watcher.observe(element);
  window.addEventListener("beforeprint", once);
};

/** The colour that the page gives a name.
 * @param {string} name
 */
const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue("--" + name).trim();

/** Lets the user choose between light and dark; what is drawn in colours is told.
 * @param {HTMLElement} place
 */
const themeSwitch = (place) => {
  const dark = () => (document.documentElement.dataset.theme || (matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light")) === "dark";
  const turn = button("", () => {
    document.documentElement.dataset.theme = dark() ? "light" : "dark";
    name();
    window.dispatchEvent(new Event("themechange"));
  }, "theme");
  const name = () => {
    turn.textContent = dark() ? "Light" : "Dark";
    turn.setAttribute("aria-label", turn.textContent + " colours");
  };
  matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => { name(); window.dispatchEvent(new Event("themechange")); });
  name();
  place.append(turn);
};
