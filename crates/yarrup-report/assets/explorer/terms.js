// @ts-check
"use strict";

/** The table of terms, kept and dropped, and what opens from a row. */

/** How many forms, and lines, are shown at first. */
const FIRST_FORMS = 12;
/** How many characters stand before and behind a word in a line. */
const AROUND = 60;

/** @type {string[] | undefined} */
let searchTexts;

/** By row: what a search looks at, the word and all its forms. */
const searched = () => {
  if (!searchTexts) {
    const { forms, firstForm } = model;
    searchTexts = [];
    for (let row = 0; row < model.rows; row += 1) {
      const own = isTerm(row) ? forms.text.slice(firstForm[row], firstForm[row + 1]).join("\n") : "";
      searchTexts.push((wordOf(row) + "\n" + own).toLowerCase());
    }
  }
  return searchTexts;
};

/** Draws the table of terms. */
const drawTerms = () => {
  /** @type {any[]} */
  const rows = [];
  for (let row = 0; row < model.rows; row += 1) {
    const what = isTerm(row) ? "" : fateWords(row).replace(/^(dropped|joined) (by step )?/, "");
    rows.push({ row, rank: isTerm(row) ? model.terms.rank[row] : null, word: wordOf(row), count: countOf(row), documents: documentsOf(row), kind: kindOf(row), tag: tagOf(row), fate: fateOf(row), what });
  }
  // Those that went stand among those that are left, by their counts.
  rows.sort((one, other) => other.count - one.count || one.row - other.row);
  const some = (/** @type {string} */ all, /** @type {string[]} */ values) => /** @type {[string, string][]} */ ([["", all], ...values.map((value) => [value, value])]);
  const used = (/** @type {string[]} */ names, /** @type {"kind" | "tag"} */ field) => { const there = new Set(rows.map((row) => row[field])); return names.filter((name) => name && there.has(name)); };
  const told = make("output", [], "told");
  const filter = () => {
    const text = search.input.value.trim().toLowerCase();
    const [fates, kinds, tags, marks] = [fate.select.value, kind.select.value, tag.select.value, label.select.value];
    const least = Number(minimum.input.value) || 0;
    const texts = text ? searched() : [];
    let left = 0;
    const fits = (/** @type {any} */ row) => {
      const fitting = row.count >= least && (!fates || row.fate === fates) && (!kinds || row.kind === kinds) && (!tags || row.tag === tags) &&
        (!text || texts[row.row].includes(text)) && (!marks || labelsOf(row.row).includes(marks));
      left += Number(fitting);
      return fitting;
    };
    if (text || fates || kinds || tags || marks || least > 0) { table.setFilter(fits); } else { table.clearFilter(); left = rows.length; }
    told.textContent = grouped(left) + " of " + grouped(rows.length) + " rows";
  };
  const search = entry("Search", "search", "a term or a form", filter);
  const fate = choice("Status", [["", "all"], ["kept", "kept"], ["dropped", "dropped"], ["joined", "joined"]], filter);
  const kind = choice("Kind", some("all", used(overview.kinds, "kind")), filter);
  const tag = choice("Part of speech", some("all", used(overview.tags, "tag")), filter);
  const label = choice("Label", some("all", overview.labels), filter);
  const minimum = entry("Tokens, at least", "number", "0", filter);
  minimum.input.min = "0";
  tag.box.hidden = tag.select.options.length < 2;
  label.box.hidden = label.select.options.length < 2;
  byId("terms-bar").replaceChildren(search.box, fate.box, kind.box, tag.box, label.box, minimum.box, told);
  /** @type {LongColumn[]} */
  const columns = [
    { title: "rank", field: "rank", number: true, width: 92 },
    { title: "word", field: "word", grow: 3, narrow: true },
    { title: "tokens", field: "count", number: true, width: 110, narrow: true },
    { title: "documents", field: "documents", number: true, width: 132 },
    { title: "status", field: "fate", width: 110, narrow: true, show: (row) => make("span", row.fate, "fate " + row.fate) },
    { title: "what took it", field: "what", grow: 4 },
    { title: "kind", field: "kind", width: 128 },
  ];
  if (overview.steps.some((/** @type {any} */ step) => step.name.startsWith("tag"))) { columns.push({ title: "part of speech", field: "tag", width: 150 }); }
  const table = longTable(byId("terms-table"), "Terms", columns, rows, (row) => openTerm(row.row));
  table.on("tableBuilt", filter);
};

/** Opens a row of the table.
 * @param {number} row
 */
const openTerm = (row) => openInPanel({ key: "term=" + encodeURIComponent(wordOf(row)) + (isTerm(row) ? "" : "&" + fateOf(row)), title: wordOf(row), draw: (place) => drawTerm(row, place) });

/**
 * @param {number} row
 * @param {HTMLElement} place
 */
const drawTerm = async (row, place) => {
  const facts = [[countOf(row), countOf(row) === 1 ? "token" : "tokens"], [documentsOf(row), documentsOf(row) === 1 ? "document" : "documents"]];
  if (isTerm(row)) { facts.push([model.terms.rank[row], "rank"]); }
  place.append(make("p", [make("span", fateOf(row), "fate " + fateOf(row)), " ", isTerm(row) ? "" : sentence(fateWords(row)) + "."]));
  place.append(make("ul", facts.map(([number, name]) => make("li", [make("b", grouped(Number(number))), make("span", name)])), "facts small"));
  const more = [kindOf(row), tagOf(row)].concat(labelsOf(row).map((label) => "label " + label)).filter(Boolean);
  place.append(make("p", more.join(" · "), "faint"));
  if (isTerm(row)) { await drawForms(row, place); }
  const detail = await detailOf(row);
  drawRanks(row, detail.ranks, place);
  if (detail.groups.length) { drawGroups(detail.groups, place); }
  await drawLines(row, detail, place);
};

/** A text with a capital at its beginning.
 * @param {string} text
 */
const sentence = (text) => text.charAt(0).toUpperCase() + text.slice(1);

/** The forms that became a term.
 * @param {number} row
 * @param {HTMLElement} place
 */
const drawForms = async (row, place) => {
  const { forms, firstForm } = model;
  const [first, end] = [firstForm[row], firstForm[row + 1]];
  place.append(make("h3", end - first === 1 ? "The form that became it" : "The " + grouped(end - first) + " forms that became it"));
  const lineOf = async (/** @type {number} */ form) => {
    const changes = await changesOf(form);
    const way = changes.length ? changes.map(([step, text]) => text + " (" + stepName(step) + ")").join(" → ") : forms.text[form] === wordOf(row) ? "as it is" : "by several steps";
    const name = make("bdi", forms.text[form] + (forms.tag[form] ? " · " + overview.tags[forms.tag[form]] : ""));
    return [name, forms.count[form], forms.documents[form], way];
  };
  const draw = async (/** @type {number} */ last) => {
    const lines = [];
    for (let form = first; form < last; form += 1) { lines.push(await lineOf(form)); }
    return plainTable(["form", "tokens", "documents", "how"], lines, "Forms");
  };
  const box = make("div", await draw(Math.min(end, first + FIRST_FORMS)), "wide");
  place.append(box);
  if (end - first > FIRST_FORMS) {
    const all = button("Show all " + grouped(end - first), async () => { box.replaceChildren(await draw(end)); all.remove(); });
    place.append(all);
  }
};

/**
 * @param {number} row
 * @param {{step: number, rank: number}[]} ranks
 * @param {HTMLElement} place
 */
const drawRanks = (row, ranks, place) => {
  place.append(make("h3", "Its rank through the steps"));
  place.append(make("p", "Where `" + wordOf(row) + "`, spelled so, stands among all words by count.", "faint"));
  place.append(plainTable(["behind", "rank"], ranks.map(({ step, rank }) => [sentence(stepName(step)), rank || "not there"]), "Ranks"));
};

/**
 * @param {number[][]} counts group and tokens
 * @param {HTMLElement} place
 */
const drawGroups = (counts, place) => {
  const { field, groups } = groupValues;
  place.append(make("h3", "By " + field));
  const of = new Map(counts.map(([group, tokens]) => [group, tokens]));
  const rows = groups.map((/** @type {any} */ group, /** @type {number} */ number) => ({ name: group.name, parts: [{ count: of.get(number) || 0, kind: "kept", name: "tokens" }] }));
  place.append(barRows(rows, "Tokens by " + field));
};

/** Lines in which a word stands.
 * @param {number} row
 * @param {{onPage: number, documents: number[]}} detail
 * @param {HTMLElement} place
 */
const drawLines = async (row, detail, place) => {
  place.append(make("h3", "In context"));
  if (!detail.documents.length) {
    place.append(make("p", overview.shown.without_documents || "None of its documents is on this page.", "faint"));
    return;
  }
  const [onPage, all] = [detail.onPage, documentsOf(row)];
  const told = all === onPage ? counted(all, "document") : counted(onPage, "document") + " of its " + grouped(all) + " on this page";
  place.append(make("p", told + (detail.documents.length < onPage ? "; the first line of " + detail.documents.length + " of them" : ""), "faint"));
  const list = make("ul", [], "lines");
  for (const number of detail.documents) {
    const found = await documentNumbered(number);
    const { start, end } = firstOf(found, row);
    const before = found.text.slice(Math.max(0, start - AROUND), start).replace(/\s+/g, " ");
    const after = found.text.slice(end, end + AROUND).replace(/\s+/g, " ");
    const line = make("p", [(start > AROUND ? "…" : "") + before, make("mark", found.text.slice(start, end), fateOf(row)), after + (end + AROUND < found.text.length ? "…" : "")]);
    line.dir = "auto";
    list.append(make("li", [button(found.id, () => openDocument(number, row), "link"), line]));
  }
  place.append(list);
};
