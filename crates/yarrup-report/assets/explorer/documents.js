// @ts-check
"use strict";

/** The list of documents, and a document with the fate of every token. */

/** How many tokens are drawn at a time. */
const TOKENS_AT_A_TIME = 3000;

/** Draws the list of documents. */
const drawDocuments = async () => {
  const index = /** @type {DocumentIndex} */ (await unpacked("documents-data"));
  const rows = index.id.map((id, number) => {
    /** @type {any} */
    const row = { row: number, id, before: index.before[number], after: index.after[number] };
    index.fields.forEach((field, place) => { row["field" + place] = field.values[number]; });
    return row;
  });
  const told = make("output", [], "told");
  const filter = () => {
    const text = search.input.value.trim().toLowerCase();
    let left = 0;
    const fits = (/** @type {any} */ row) => {
      const fitting = row.id.toLowerCase().includes(text) || index.fields.some((_, place) => row["field" + place].toLowerCase().includes(text));
      left += Number(fitting);
      return fitting;
    };
    if (text) { table.setFilter(fits); } else { table.clearFilter(); left = rows.length; }
    told.textContent = grouped(left) + " of " + counted(rows.length, "document");
  };
  const search = entry("Search", "search", "an id or a field", filter);
  byId("documents-bar").replaceChildren(search.box, told);
  /** @type {LongColumn[]} */
  const columns = [{ title: "document", field: "id", grow: 2, narrow: true }];
  index.fields.forEach((field, place) => columns.push({ title: field.name, field: "field" + place }));
  columns.push({ title: "tokens found", field: "before", number: true, width: 130 }, { title: "kept", field: "after", number: true, width: 100, narrow: true });
  const table = longTable(byId("documents-table"), "Documents", columns, rows, (row) => openDocument(row.row));
  table.on("tableBuilt", filter);
};

/** Opens a document, at the first token of a row of the terms if one is given.
 * @param {number} number
 * @param {number} [row]
 */
const openDocument = async (number, row) => {
  const found = await documentNumbered(number);
  return openInPanel({ key: "document=" + encodeURIComponent(found.id), title: found.id, draw: (place) => drawDocument(found, row, place) });
};

/**
 * @param {DocumentValue} found
 * @param {number | undefined} row
 * @param {HTMLElement} place
 */
const drawDocument = async (found, row, place) => {
  place.append(make("p", counted(found.tokens_before, "token") + " as found, " + grouped(found.tokens_after) + " kept"));
  const fields = Object.entries(found.fields);
  if (fields.length) { place.append(make("dl", fields.flatMap(([name, value]) => [make("dt", name), make("dd", value)]))); }
  place.append(make("h3", "The text, each token by its fate"));
  place.append(make("p", [...["kept", "changed", "dropped", "joined", "none"].map((kind) => make("span", { kept: "kept", changed: "kept, spelled otherwise", dropped: "dropped", joined: "became part of another", none: "no token" }[kind], "token " + kind))], "legend"));
  const text = make("div", [], "reading");
  text.dir = "auto";
  text.tabIndex = 0;
  text.setAttribute("role", "group");
  text.setAttribute("aria-label", "The text. Left and right arrow go from token to token, Enter opens one.");
  const told = make("p", "Point at a token, or use the arrow keys, to see what became of it.", "token-told");
  told.setAttribute("aria-live", "polite");
  place.append(told, text);
  drawTokens(found, text, told, row);
  if (found.cut) { place.append(make("p", "The beginning of the document: " + counted(found.cut, "byte") + " more are not on this page.", "faint")); }
  place.append(make("h3", overview.text_recipe ? "The rewritten text" : "The terms that are left"));
  const left = cleanOf(found);
  const clean = make("div", left || "Nothing is left.", left ? "reading clean" : "faint");
  clean.dir = "auto";
  place.append(clean);
};

/** What became of a token, for its colour.
 * @param {number} form
 * @returns {string}
 */
const colourOf = (form) => {
  const row = model.rowOfForm[form];
  return isTerm(row) ? (model.forms.text[form] === wordOf(row) ? "kept" : "changed") : fateOf(row);
};

/** What became of a form, in words.
 * @param {number} form
 */
const journeyOf = async (form) => {
  const row = model.rowOfForm[form];
  const way = (await changesOf(form)).map(([step, text]) => " → " + text + " (" + stepName(step) + ")").join("");
  const tag = model.forms.tag[form] ? " · " + overview.tags[model.forms.tag[form]] : "";
  return model.forms.text[form] + tag + way + ": " + (isTerm(row) ? "kept as " + wordOf(row) : fateWords(row));
};

/** Draws the tokens of a document, the first ones at once and others as one goes on.
 * @param {DocumentValue} found
 * @param {HTMLElement} place
 * @param {HTMLElement} told
 * @param {number | undefined} row
 */
const drawTokens = (found, place, told, row) => {
  const { starts, ends } = placesOf(found);
  const wanted = row === undefined ? -1 : firstOf(found, row).at;
  /** The text from one token to another, with what stands before it. */
  const drawn = (/** @type {number} */ first, /** @type {number} */ last) => {
    const parts = document.createDocumentFragment();
    let end = first ? ends[first - 1] : 0;
    for (let at = first; at < last; at += 1) {
      if (starts[at] > end) { parts.append(make("span", found.text.slice(end, starts[at]), "none")); }
      end = ends[at];
      const token = make("span", found.text.slice(starts[at], end), "token " + colourOf(found.forms[at]) + (row !== undefined && model.rowOfForm[found.forms[at]] === row ? " wanted" : ""));
      token.dataset.at = String(at);
      parts.append(token);
    }
    if (last === starts.length) { parts.append(make("span", found.text.slice(end), "none")); }
    return parts;
  };
  // What is looked for stands in the part that is drawn first; more before and behind it is drawn when it is asked for.
  let first = wanted < TOKENS_AT_A_TIME ? 0 : wanted - TOKENS_AT_A_TIME / 2;
  let last = Math.min(starts.length, first + TOKENS_AT_A_TIME);
  place.append(drawn(first, last));
  const earlier = button("Show the text before", () => {
    const next = Math.max(0, first - TOKENS_AT_A_TIME);
    place.prepend(drawn(next, first));
    first = next;
    earlier.hidden = first === 0;
  }, "more");
  const later = button("Show more of the text", () => {
    const next = Math.min(starts.length, last + TOKENS_AT_A_TIME);
    place.append(drawn(last, next));
    last = next;
    later.hidden = last === starts.length;
  }, "more");
  earlier.hidden = first === 0;
  later.hidden = last === starts.length;
  place.before(earlier);
  place.after(later);
  /** @type {HTMLElement | null} */
  let current = null;
  const tell = async (/** @type {HTMLElement} */ token) => {
    if (current) { current.classList.remove("current"); }
    current = token;
    token.classList.add("current");
    const at = Number(token.dataset.at);
    const [from, to] = [starts[at], ends[at]];
    const over = found.made.filter(([start, length]) => start <= from && start + length >= to);
    const told_of = await Promise.all([found.forms[at]].concat(over.map(([, , form]) => form)).map(journeyOf));
    if (current === token) { told.replaceChildren(...told_of.map((one) => make("span", one))); }
  };
  const tokenAt = (/** @type {EventTarget | null} */ target) => (target instanceof Element ? /** @type {HTMLElement | null} */ (target.closest(".token")) : null);
  const open = (/** @type {HTMLElement} */ token) => {
    const at = Number(token.dataset.at);
    const over = found.made.find(([start, length]) => start <= starts[at] && start + length >= ends[at]);
    const own = model.rowOfForm[found.forms[at]];
    openTerm(over && fateOf(own) === "joined" ? model.rowOfForm[over[2]] : own);
  };
  place.addEventListener("mouseover", (event) => { const token = tokenAt(event.target); if (token) { tell(token); } });
  place.addEventListener("click", (event) => { const token = tokenAt(event.target); if (token) { open(token); } });
  place.addEventListener("keydown", (event) => {
    const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (event.key === "Enter" && current) { open(current); }
    if (!by) { return; }
    event.preventDefault();
    const at = current ? Number(current.dataset.at) + by : 0;
    const token = /** @type {HTMLElement | null} */ (place.querySelector('[data-at="' + at + '"]'));
    if (token) {
      token.scrollIntoView({ block: "nearest" });
      tell(token);
    }
  });
  if (wanted >= 0) {
    const token = /** @type {HTMLElement} */ (place.querySelector('[data-at="' + wanted + '"]'));
    token.scrollIntoView({ block: "center" });
    tell(token);
  }
};
