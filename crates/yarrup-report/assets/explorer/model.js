// @ts-check
"use strict";

/** What the page holds of the run, and how to look it up. The value's schema says what is what. */

/** @typedef {{rank: number[], text: string[], count: number[], documents: number[], kind: number[], tag: number[], labels: number[], forms: number[]}} TermColumns */
/** @typedef {{kind: number[], fate: string[], step: number[], reason: string[], into: (string | null)[]}} OtherColumns */
/** @typedef {{text: string[], count: number[], documents: number[], tag: number[], others: OtherColumns}} FormColumns */
/** @typedef {{id: string, fields: Record<string, string>, text: string, clean: string | null, cut: number, tokens_before: number, tokens_after: number, gaps: number[], lengths: number[][], forms: number[], made: number[][]}} DocumentValue */
/** @typedef {{ranks: {step: number, ranks: number[]}[], on_page: number[], documents: number[][], groups: number[][][]}} DetailChunk */
/** @typedef {{id: string[], before: number[], after: number[], cut: number[], fields: {name: string, values: string[]}[]}} DocumentIndex */

const overview = JSON.parse(byId("overview-data").textContent || "");
/** How many rows and documents a block holds.
 * @type {{rows: number, documents: number, forms: number}}
 */
const blockSizes = overview.blocks;

/** @type {{terms: TermColumns, forms: FormColumns, keptForms: number, firstForm: Uint32Array, rowOfForm: Uint32Array, rows: number}} */
let model;

/** Reads the tables of terms and forms. */
const readModel = async () => {
  const { terms, forms } = /** @type {{terms: TermColumns, forms: FormColumns}} */ (await unpacked("terms-data"));
  const count = terms.text.length;
  const firstForm = new Uint32Array(count + 1);
  terms.forms.forEach((number, row) => { firstForm[row + 1] = firstForm[row] + number; });
  const keptForms = firstForm[count];
  const rowOfForm = new Uint32Array(forms.text.length);
  for (let row = 0; row < count; row += 1) { rowOfForm.fill(row, firstForm[row], firstForm[row + 1]); }
  for (let form = keptForms; form < rowOfForm.length; form += 1) { rowOfForm[form] = count + form - keptForms; }
  model = { terms, forms, keptForms, firstForm, rowOfForm, rows: count + forms.text.length - keptForms };
};

/** The name of a step with its number.
 * @param {number} step
 */
const stepName = (step) => "step " + step + ", " + overview.steps[step].name;

/** Whether a row of the table is a term that is left.
 * @param {number} row
 */
const isTerm = (row) => row < model.terms.text.length;
/** The number of the form that a row of the table is, if it is no term.
 * @param {number} row
 */
const otherOf = (row) => row - model.terms.text.length;
/** The word of a row.
 * @param {number} row
 * @returns {string}
 */
const wordOf = (row) => (isTerm(row) ? model.terms.text[row] : model.forms.text[model.keptForms + otherOf(row)]);
/** What became of a row: kept, dropped or joined.
 * @param {number} row
 * @returns {string}
 */
const fateOf = (row) => (isTerm(row) ? "kept" : model.forms.others.fate[otherOf(row)]);
/** How often the word of a row stands.
 * @param {number} row
 * @returns {number}
 */
const countOf = (row) => (isTerm(row) ? model.terms.count[row] : model.forms.count[model.keptForms + otherOf(row)]);
/** In how many documents.
 * @param {number} row
 * @returns {number}
 */
const documentsOf = (row) => (isTerm(row) ? model.terms.documents[row] : model.forms.documents[model.keptForms + otherOf(row)]);
/**
 * @param {number} row
 * @returns {string}
 */
const kindOf = (row) => overview.kinds[isTerm(row) ? model.terms.kind[row] : model.forms.others.kind[otherOf(row)]];
/**
 * @param {number} row
 * @returns {string}
 */
const tagOf = (row) => overview.tags[isTerm(row) ? model.terms.tag[row] : model.forms.tag[model.keptForms + otherOf(row)]];
/**
 * @param {number} row
 * @returns {string[]}
 */
const labelsOf = (row) => (isTerm(row) && model.terms.labels.length ? overview.labels.filter((/** @type {string} */ _, /** @type {number} */ bit) => (model.terms.labels[row] >> bit) & 1) : []);
/** What became of a row, in words.
 * @param {number} row
 */
const fateWords = (row) => {
  if (isTerm(row)) { return "kept"; }
  const { step, reason, into } = model.forms.others;
  const at = otherOf(row);
  if (fateOf(row) === "joined") { return "joined" + (into[at] === null ? "" : " into " + into[at]) + " by " + stepName(step[at]); }
  return "dropped by " + stepName(step[at]) + (reason[at] ? ": " + reason[at] : "");
};

/** What opens from a row.
 * @param {number} row
 */
const detailOf = async (row) => {
  const block = Math.floor(row / blockSizes.rows);
  const at = row - block * blockSizes.rows;
  const chunk = /** @type {DetailChunk} */ (await unpacked("details-" + block));
  return {
    ranks: chunk.ranks.map((column) => ({ step: column.step, rank: column.ranks[at] })),
    onPage: chunk.on_page[at],
    documents: chunk.documents[at],
    groups: chunk.groups[at] || [],
  };
};

/** The steps that changed the spelling of a form.
 * @param {number} form
 * @returns {Promise<[number, string][]>}
 */
const changesOf = async (form) => {
  const block = Math.floor(form / blockSizes.forms);
  return (await unpacked("changes-" + block))[form - block * blockSizes.forms];
};

/** A document that the page holds.
 * @param {number} number
 * @returns {Promise<DocumentValue>}
 */
const documentNumbered = async (number) => {
  const block = Math.floor(number / blockSizes.documents);
  return (await unpacked("texts-" + block))[number - block * blockSizes.documents];
};

/** Where the tokens of a document begin, and where they end.
 * @param {DocumentValue} found
 */
const placesOf = (found) => {
  const lengths = found.forms.map((form) => model.forms.text[form].length);
  found.lengths.forEach(([at, length]) => { lengths[at] = length; });
  let end = 0;
  const starts = found.gaps.map((gap, at) => {
    const start = end + gap;
    end = start + lengths[at];
    return start;
  });
  return { starts, ends: starts.map((start, at) => start + lengths[at]) };
};

/** Where a row of the terms first stands in a document: its first token, and where its words begin and end.
 * @param {DocumentValue} found
 * @param {number} row
 */
const firstOf = (found, row) => {
  const { starts, ends } = placesOf(found);
  const at = found.forms.findIndex((form) => model.rowOfForm[form] === row);
  if (at >= 0) { return { at, start: starts[at], end: ends[at] }; }
  // A step made it of several tokens.
  const made = found.made.find(([, , form]) => model.rowOfForm[form] === row);
  if (!made) { return { at: -1, start: 0, end: 0 }; }
  return { at: starts.findIndex((start) => start >= made[0]), start: made[0], end: made[0] + made[1] };
};

/** The cleaned text of a document.
 * @param {DocumentValue} found
 */
const cleanOf = (found) => (found.clean === null ? found.forms.map((form) => model.rowOfForm[form]).filter(isTerm).map(wordOf).join(" ") : found.clean);

/** The row of a term by its spelling.
 * @param {string} term
 * @returns {number | undefined}
 */
const rowNamed = (term) => {
  if (!rowsByTerm) {
    rowsByTerm = new Map(model.terms.text.map((text, row) => [text, row]));
  }
  return rowsByTerm.get(term);
};
/** @type {Map<string, number> | undefined} */
let rowsByTerm;
