// @ts-check
"use strict";

/** How the tokens flow through the steps: what came in, what went, what was made, what is left. */

const SVG = "http://www.w3.org/2000/svg";

/** An element of a drawing.
 * @param {string} name
 * @param {Record<string, string | number>} attributes
 * @param {string} [text]
 */
const draw = (name, attributes, text) => {
  const element = document.createElementNS(SVG, name);
  Object.entries(attributes).forEach(([key, value]) => element.setAttribute(key, String(value)));
  if (text !== undefined) { element.textContent = visible(text); }
  return element;
};

/** Draws the flow.
 * @param {HTMLElement} place
 */
const drawFlow = (place) => {
  const [found, ...steps] = overview.steps;
  const split = steps.findIndex((/** @type {any} */ step) => step.tokens_out !== null);
  const flow = steps.slice(split).map((/** @type {any} */ step, /** @type {number} */ at) => ({
    name: step.step + " " + step.name,
    // What the steps on the text took or gave shows at the split.
    in: at === 0 ? found.tokens_out : step.tokens_in,
    out: step.tokens_out,
    dropped: at === 0 ? Math.max(0, found.tokens_out - step.tokens_out) : step.tokens_dropped,
    joined: at === 0 ? 0 : step.tokens_joined,
    added: at === 0 ? Math.max(0, step.tokens_out - found.tokens_out) : step.tokens_added,
    changed: at === 0 ? 0 : step.tokens_changed,
    isSplit: at === 0,
  }));
  const most = Math.max(1, ...flow.map((/** @type {any} */ step) => Math.max(step.in + step.added, step.out)));
  const [left, width, row, bar, right] = [250, 470, 52, 24, 240];
  const size = (/** @type {number} */ count) => (count / most) * width;
  const height = 40 + flow.length * row;
  const picture = draw("svg", { viewBox: "0 0 " + (left + width + right) + " " + height, role: "img", "aria-label": "The tokens through the steps" });
  const label = (/** @type {number} */ x, /** @type {number} */ y, /** @type {string} */ text, /** @type {string} */ kind) => picture.append(draw("text", { x, y, class: kind }, text));
  label(left - 12, 17, "as found", "name");
  picture.append(draw("rect", { x: left, y: 4, width: size(found.tokens_out), height: bar, class: "kept" }));
  label(left + width + 16, 17, counted(found.tokens_out, "token"), "number");
  let [from, y] = [size(found.tokens_out), 4 + bar];
  flow.forEach((/** @type {any} */ step) => {
    const top = y + row - bar;
    const through = step.out - step.added;
    picture.append(draw("path", { d: "M" + left + " " + y + "H" + (left + from) + "L" + (left + size(step.in)) + " " + top + "H" + left + "Z", class: "band" }));
    let x = left;
    [["kept", through], ["made", step.added], ["dropped", step.dropped], ["joined", step.joined]].forEach(([kind, count]) => {
      if (Number(count) > 0) {
        const part = draw("rect", { x, y: top, width: Math.max(0.75, size(Number(count))), height: bar, class: String(kind) });
        part.append(draw("title", {}, counted(Number(count), "token") + " " + { kept: "go on", made: "made", dropped: "dropped", joined: "joined" }[/** @type {string} */ (kind)]));
        picture.append(part);
        x += size(Number(count));
      }
      if (kind === "made") { from = x - left; }
    });
    label(left - 12, top + 16, step.name.length > 30 ? step.name.slice(0, 29) + "…" : step.name, "name");
    const terms = [step.dropped ? "− " + grouped(step.dropped) + (step.isSplit ? " on the text" : " dropped") : "", step.joined ? "− " + grouped(step.joined) + " joined" : "", step.added ? "+ " + grouped(step.added) + " made" : ""].filter(Boolean);
    label(left + width + 16, top + 9, grouped(step.out) + " left", "number");
    label(left + width + 16, top + 26, terms.join(", ") || (step.changed ? grouped(step.changed) + " spelled otherwise" : step.isSplit ? "" : "nothing taken out"), "note");
    y = top + bar;
  });
  place.replaceChildren(picture);
};
