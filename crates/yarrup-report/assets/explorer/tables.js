// @ts-check
"use strict";

/** Long tables of which only the rows that are seen are drawn. */

/** @typedef {{title: string, field: string, number?: boolean, width?: number, grow?: number, tip?: string, narrow?: boolean, show?: (row: any) => Part}} LongColumn */

/** How many rows of a long table are printed. */
const ROWS_ON_PAPER = 60;

/** A long table.
 * @param {HTMLElement} place
 * @param {string} name
 * @param {LongColumn[]} columns
 * @param {any[]} rows
 * @param {(row: any) => void} open
 */
const longTable = (place, name, columns, rows, open) => {
  const isNarrow = matchMedia("(max-width: 700px)").matches;
  const wanted = columns.filter((column) => !isNarrow || column.narrow);
  const cellOf = (/** @type {LongColumn} */ column, /** @type {number} */ at) => (/** @type {any} */ cell) => {
    const row = cell.getRow().getData();
    const content = column.show ? column.show(row) : column.number ? (row[column.field] === null ? "" : grouped(row[column.field])) : row[column.field];
    if (at > 0) { const text = make("span", content); text.dir = "auto"; return text; }
    const opener = button(content, () => open(row), "open");
    opener.dir = "auto";
    return opener;
  };
  // The column that opens a row comes first among those that are read, whatever stands before it.
  const opening = wanted.findIndex((column) => !column.number);
  const table = new Tabulator(place, {
    data: rows,
    index: "row",
    height: "100%",
    layout: "fitColumns",
    rowHeight: 34,
    placeholder: "Nothing fits these filters.",
    columnDefaults: { headerSortTristate: false, resizable: false },
    columns: wanted.map((column, at) => ({
      title: column.title,
      field: column.field,
      hozAlign: column.number ? "right" : "left",
      headerHozAlign: column.number ? "right" : "left",
      sorter: column.number ? "number" : "string",
      headerSortStartingDir: column.number ? "desc" : "asc",
      headerTooltip: column.tip || false,
      width: column.width,
      widthGrow: column.grow || 1,
      formatter: cellOf(column, at === opening ? 0 : 1),
    })),
  });
  const holder = () => /** @type {HTMLElement} */ (place.querySelector(".tabulator-tableholder"));
  table.on("tableBuilt", () => {
    place.setAttribute("aria-label", name);
    place.dataset.ready = "";
    const inner = holder();
    inner.setAttribute("role", "rowgroup");
    inner.removeAttribute("tabindex");
    mendRoles(place);
  });
  table.on("renderComplete", () => mendRoles(place));
  // Paper has room for the first rows alone.
  const paper = make("div", [], "on-paper");
  (place.parentElement || place).after(paper);
  window.addEventListener("beforeprint", () => {
    const shown = /** @type {any[]} */ (table.getData("active"));
    const cells = shown.slice(0, ROWS_ON_PAPER).map((row) => columns.map((column) => (column.show ? column.show(row) : row[column.field])));
    paper.replaceChildren(plainTable(columns.map((column) => column.title), cells, name), make("p", "The first " + grouped(cells.length) + " of " + grouped(shown.length) + " rows.", "faint"));
  });
  // Arrow keys go from row to row.
  place.addEventListener("keydown", (event) => {
    const from = event.target instanceof Element ? event.target.closest(".tabulator-row") : null;
    const down = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (!from || !down) { return; }
    event.preventDefault();
    const next = down > 0 ? from.nextElementSibling : from.previousElementSibling;
    const opener = next && next.querySelector("button.open");
    if (next instanceof HTMLElement && opener instanceof HTMLElement) {
      opener.focus({ preventScroll: true });
      const inner = holder();
      const [top, bottom] = [next.offsetTop, next.offsetTop + next.offsetHeight];
      if (top < inner.scrollTop) { inner.scrollTop = top; }
      if (bottom > inner.scrollTop + inner.clientHeight) { inner.scrollTop = bottom - inner.clientHeight; }
    }
  });
  return table;
};

/** Gives the parts of a table the roles that their places ask for.
 * @param {HTMLElement} place
 */
const mendRoles = (place) => {
  place.querySelectorAll(".tabulator-header, .tabulator-table").forEach((part) => part.setAttribute("role", "rowgroup"));
  place.querySelectorAll(".tabulator-headers").forEach((part) => part.setAttribute("role", "row"));
  place.querySelectorAll(".tabulator-header-contents, .tabulator-tableholder").forEach((part) => part.setAttribute("role", "presentation"));
};

/** A choice from a list.
 * @param {string} name
 * @param {[string, string][]} choices value and name
 * @param {() => void} changed
 */
const choice = (name, choices, changed) => {
  const select = /** @type {HTMLSelectElement} */ (make("select", choices.map(([value, shown]) => {
    const option = /** @type {HTMLOptionElement} */ (make("option", shown));
    option.value = value;
    return option;
  })));
  select.addEventListener("change", changed);
  return { select, box: make("label", [make("span", name), select]) };
};

/** A field to type in.
 * @param {string} name
 * @param {string} type
 * @param {string} hint
 * @param {() => void} changed
 */
const entry = (name, type, hint, changed) => {
  const input = /** @type {HTMLInputElement} */ (make("input"));
  input.type = type;
  input.placeholder = hint;
  input.addEventListener("input", changed);
  return { input, box: make("label", [make("span", name), input]) };
};
