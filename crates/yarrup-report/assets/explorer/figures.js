// @ts-check
"use strict";

/** The figures: points that name their terms, lines, bars. What they show is in the value; here it is only drawn. */

/** @typedef {{x: number[], y: number[], term: string[], row: (number | null)[], fit: Fit | null}} PointValues */
/** @typedef {{factor: number, power: number, from: number, to: number}} Fit */
/** @typedef {{name: string, parts: {count: number, kind: string, name: string}[]}} BarRow */

/** @type {any} */
let figureValues;
/** @type {any} */
let groupValues;

/** A number on an axis.
 * @param {number} number
 */
const axisNumber = (number) => (number >= 1e6 ? grouped(number / 1e6) + " M" : number >= 1e4 ? grouped(number / 1e3) + " k" : grouped(number));

/** Rows of bars on one scale: the parts of a whole behind one another, or else each on a line of its own.
 * @param {BarRow[]} rows
 * @param {string} name
 * @param {boolean} [isWhole]
 */
const barRows = (rows, name, isWhole) => {
  const long = (/** @type {BarRow} */ row) => row.parts.reduce((most, part) => (isWhole ? most + part.count : Math.max(most, part.count)), 0);
  const most = Math.max(1, ...rows.map(long));
  const line = (/** @type {BarRow} */ row) => {
    const bar = make("span", row.parts.map((part) => {
      const piece = make("span", [], part.kind);
      piece.style.width = (part.count / most) * 100 + "%";
      return piece;
    }), isWhole ? "bar" : "bar apart");
    const title = make("bdi", row.name);
    return make("tr", [make("th", title), make("td", bar, "wide-cell"), ...row.parts.map((part) => make("td", grouped(part.count), "number"))]);
  };
  const head = make("tr", [make("td", [], "corner"), make("td", []), ...(rows[0] ? rows[0].parts.map((part) => make("th", rows[0].parts.length > 1 ? make("span", part.name, "key " + part.kind) : part.name, "number")) : [])]);
  const table = make("table", [make("thead", head), make("tbody", rows.map(line))], "bars");
  table.querySelectorAll("tbody th").forEach((cell) => cell.setAttribute("scope", "row"));
  table.setAttribute("aria-label", name);
  return table;
};

/** @typedef {{x: string, y: string, log: boolean, line?: boolean, values: {x: number[], y: number[]}, fit?: Fit | null, covers?: {share: number, terms: number}[], tell: (at: number) => string, open?: (at: number) => void}} Chart */

/** A chart that can be zoomed into, and whose points can be pointed at and opened.
 * @param {HTMLElement} place
 * @param {string} name
 * @param {Chart} chart
 */
const pointChart = (place, name, chart) => {
  const { x, y } = chart.values;
  const family = getComputedStyle(document.body).fontFamily;
  const farthest = (/** @type {number[]} */ numbers) => numbers.reduce((most, number) => Math.max(most, number), 1);
  const whole = chart.log ? { x: [0.9, farthest(x) * 1.3], y: [0.8, farthest(y) * 1.5] } : { x: [0, farthest(x) * 1.02], y: [0, farthest(y) * 1.05] };
  const box = make("div", [], "chart");
  const tip = make("div", [], "tip");
  tip.hidden = true;
  const out = button("Whole figure", () => zoom(whole));
  out.disabled = true;
  const closer = (/** @type {number} */ by) => {
    const between = (/** @type {{min: number, max: number}} */ scale) => {
      const [from, to] = chart.log ? [Math.log(scale.min), Math.log(scale.max)] : [scale.min, scale.max];
      const [middle, half] = [(from + to) / 2, ((to - from) / 2) * by];
      return chart.log ? [Math.exp(middle - half), Math.exp(middle + half)] : [middle - half, middle + half];
    };
    const next = { x: between(plot.scales.x), y: between(plot.scales.y) };
    zoom(by > 1 && next.x[0] <= whole.x[0] && next.x[1] >= whole.x[1] ? whole : next);
  };
  const tools = make("div", [button("Closer", () => closer(0.5)), button("Farther", () => closer(2)), out, make("span", "Drag a box to come closer; double-click for the whole.", "faint hint")], "chart-tools");
  place.replaceChildren(box, tools);
  const zoom = (/** @type {{x: number[], y: number[]}} */ to) => {
    plot.batch(() => {
      plot.setScale("x", { min: to.x[0], max: to.x[1] });
      plot.setScale("y", { min: to.y[0], max: to.y[1] });
    });
    out.disabled = to === whole;
    box.dataset.zoomed = String(to !== whole);
  };
  /** @type {number | null} */
  let pointed = null;
  const line = (/** @type {any} */ plot, /** @type {[number, number][]} */ points, /** @type {string} */ ink, /** @type {number[]} */ dash) => {
    const pen = plot.ctx;
    pen.save();
    pen.beginPath();
    pen.rect(plot.bbox.left, plot.bbox.top, plot.bbox.width, plot.bbox.height);
    pen.clip();
    pen.beginPath();
    points.forEach(([px, py], at) => { pen[at ? "lineTo" : "moveTo"](plot.valToPos(px, "x", true), plot.valToPos(py, "y", true)); });
    pen.strokeStyle = ink;
    pen.lineWidth = 1.5 * devicePixelRatio;
    pen.setLineDash(dash.map((length) => length * devicePixelRatio));
    pen.stroke();
    pen.restore();
  };
  const inks = (/** @type {any} */ plot) => {
    const pen = plot.ctx;
    pen.save();
    pen.beginPath();
    pen.rect(plot.bbox.left, plot.bbox.top, plot.bbox.width, plot.bbox.height);
    pen.clip();
    pen.fillStyle = colour("kept");
    if (chart.line) {
      line(plot, x.map((at, number) => [at, y[number]]), colour("kept"), []);
    } else {
      pen.globalAlpha = 0.7;
      const radius = 2.6 * devicePixelRatio;
      pen.beginPath();
      for (let at = 0; at < x.length; at += 1) {
        const [px, py] = [plot.valToPos(x[at], "x", true), plot.valToPos(y[at], "y", true)];
        pen.moveTo(px + radius, py);
        pen.arc(px, py, radius, 0, 2 * Math.PI);
      }
      pen.fill();
    }
    pen.restore();
    const { fit } = chart;
    if (fit) {
      const points = /** @type {[number, number][]} */ ([]);
      for (let step = 0; step <= 60; step += 1) {
        const at = chart.log ? fit.from * Math.pow(fit.to / fit.from, step / 60) : fit.from + ((fit.to - fit.from) * step) / 60;
        points.push([at, fit.factor * Math.pow(at, fit.power)]);
      }
      line(plot, points, colour("accent"), [6, 4]);
    }
    (chart.covers || []).forEach((cover, number) => {
      if (cover.terms < 1) { return; }
      line(plot, [[cover.terms, plot.scales.y.min], [cover.terms, plot.scales.y.max]], colour("dropped"), [2, 3]);
      const px = plot.valToPos(cover.terms, "x", true);
      if (px < plot.bbox.left || px > plot.bbox.left + plot.bbox.width) { return; }
      const text = Math.round(cover.share * 100) + " % by " + grouped(cover.terms);
      pen.save();
      pen.textAlign = "left";
      pen.textBaseline = "alphabetic";
      pen.font = 12 * devicePixelRatio + "px " + family;
      const wide = pen.measureText(text).width;
      const right = px + wide + 12 * devicePixelRatio > plot.bbox.left + plot.bbox.width;
      const start = right ? px - wide - 6 * devicePixelRatio : px + 6 * devicePixelRatio;
      const base = plot.bbox.top + (16 + number * 18) * devicePixelRatio;
      pen.fillStyle = colour("paper");
      pen.fillRect(start - 2, base - 12 * devicePixelRatio, wide + 4, 16 * devicePixelRatio);
      pen.fillStyle = colour("ink");
      pen.fillText(text, start, base);
      pen.restore();
    });
    if (pointed !== null) {
      pen.save();
      pen.beginPath();
      pen.arc(plot.valToPos(x[pointed], "x", true), plot.valToPos(y[pointed], "y", true), 6 * devicePixelRatio, 0, 2 * Math.PI);
      pen.strokeStyle = colour("ink");
      pen.lineWidth = 2 * devicePixelRatio;
      pen.stroke();
      pen.restore();
    }
  };
  /** The point nearest to a place, in pixels.
   * @param {number} left
   * @param {number} top
   */
  const nearest = (left, top) => {
    let [best, least] = [/** @type {number | null} */ (null), 24 * 24];
    for (let at = 0; at < x.length; at += 1) {
      const [dx, dy] = [plot.valToPos(x[at], "x") - left, chart.line ? 0 : plot.valToPos(y[at], "y") - top];
      const far = dx * dx + dy * dy;
      if (far < least) { [best, least] = [at, far]; }
    }
    return best;
  };
  const point = (/** @type {number | null} */ at) => {
    if (at !== pointed) {
      pointed = at;
      plot.redraw(false);
    }
    tip.hidden = at === null;
    if (at === null) { return; }
    tip.textContent = visible(chart.tell(at));
    tip.style.left = Math.max(0, Math.min(plot.valToPos(x[at], "x") + 12, plot.over.clientWidth - tip.offsetWidth)) + "px";
    tip.style.top = Math.max(0, plot.valToPos(y[at], "y") - 40) + "px";
  };
  const axis = (/** @type {string} */ label, /** @type {number} */ size) => ({
    label, size, labelSize: 22, font: "12px " + family, labelFont: "13px " + family,
    stroke: () => colour("faint"), grid: { stroke: () => colour("line"), width: 1 }, ticks: { stroke: () => colour("line"), width: 1 },
    values: (/** @type {any} */ _, /** @type {number[]} */ splits) => splits.map((number) => (number === null ? "" : !chart.log ? axisNumber(number) : number >= 1 && Math.abs(Math.log10(number) % 1) < 1e-9 ? axisNumber(number) : "")),
  });
  const width = () => Math.max(260, box.clientWidth);
  const plot = new uPlot({
    width: width(),
    height: 380,
    scales: { x: { time: false, distr: chart.log ? 3 : 1, auto: false, range: (/** @type {any} */ _, /** @type {number} */ min, /** @type {number} */ max) => [min, max] }, y: { distr: chart.log ? 3 : 1, auto: false, range: (/** @type {any} */ _, /** @type {number} */ min, /** @type {number} */ max) => [min, max] } },
    axes: [axis(chart.x, 40), axis(chart.y, 58)],
    series: [{}, { paths: () => null, points: { show: false } }],
    cursor: { points: { show: false }, drag: { x: true, y: true, uni: 20, setScale: true }, x: false, y: false },
    legend: { show: false },
    hooks: {
      draw: [inks],
      setCursor: [(/** @type {any} */ plot) => point(plot.cursor.left < 0 ? null : nearest(plot.cursor.left, plot.cursor.top))],
      setSelect: [(/** @type {any} */ plot) => { if (plot.select.width > 0) { out.disabled = false; box.dataset.zoomed = "true"; } }],
    },
  }, [x, y], box);
  zoom(whole);
  plot.over.append(tip);
  box.setAttribute("role", "img");
  box.setAttribute("aria-label", name);
  box.dataset.ready = "";
  plot.over.addEventListener("dblclick", () => zoom(whole));
  plot.over.addEventListener("click", (/** @type {MouseEvent} */ event) => {
    const place = plot.over.getBoundingClientRect();
    const at = nearest(event.clientX - place.left, event.clientY - place.top);
    if (at !== null && chart.open && !(plot.select.width > 0)) { chart.open(at); }
  });
  new ResizeObserver(() => plot.setSize({ width: width(), height: 380 })).observe(box);
  window.addEventListener("themechange", () => plot.redraw(false));
};

/** A figure with its title and how to read it.
 * @param {string} id
 * @param {string} title
 * @param {Part | Part[]} caption
 * @param {(place: HTMLElement) => void} drawn
 */
const figure = (id, title, caption, drawn) => {
  const place = make("div", [], "drawing");
  const heading = make("h3", title);
  heading.id = "figure-" + id;
  const whole = make("figure", [heading, place, make("figcaption", caption)]);
  whole.id = id;
  byId("figures-list").append(whole);
  whenNear(whole, () => drawn(place));
};

/** @param {Fit} fit */
const fitWords = (fit) => "power " + fit.power.toFixed(2).replace("-", "−") + ", fitted from " + grouped(Math.round(fit.from)) + " to " + grouped(Math.round(fit.to));

/** Terms as points.
 * @param {PointValues} values
 * @param {(x: number, y: number) => string} tell
 */
const termPoints = (values, tell) => ({
  values,
  log: true,
  fit: values.fit,
  tell: (/** @type {number} */ at) => values.term[at] + " · " + tell(values.x[at], values.y[at]),
  open: (/** @type {number} */ at) => { const row = values.row[at]; if (row !== null) { openTerm(row); } },
});

/** Draws all figures. */
const drawFigures = () => {
  const { rank_frequency, rank_documents, documents_frequency, covers, kinds, tags, growth, lengths } = figureValues;
  const opens = "Point at one to see which it is; click to open it.";
  figure("rank-frequency", "How the counts of terms fall with their rank", "Each point is a term, its rank to the right and its tokens upwards, both on logarithmic axes. The dotted lines tell how many of the commonest terms cover a share of all tokens" +
    (rank_frequency.fit ? "; the dashed line is a power law (" + fitWords(rank_frequency.fit) + ")" : "") + ". " + opens,
  (place) => pointChart(place, "Rank and frequency of the terms", { x: "rank of the term", y: "tokens", covers, ...termPoints(rank_frequency, (rank, count) => "rank " + grouped(rank) + " · " + counted(count, "token")) }));
  figure("rank-documents", "In how many documents the terms stand, by their rank", "Each point is a term, its rank by tokens to the right and the documents that hold it upwards. Terms far below their neighbours crowd in few documents. " + opens,
    (place) => pointChart(place, "Rank and documents of the terms", { x: "rank of the term", y: "documents with the term", ...termPoints(rank_documents, (rank, documents) => "rank " + grouped(rank) + " · " + counted(documents, "document")) }));
  figure("documents-frequency", "How often terms stand in the documents that hold them", "Each point is a term, its documents to the right and its tokens upwards. The dashed line is one token a document: the higher above it, the oftener a term stands in a document that holds it. " + opens,
    (place) => pointChart(place, "Documents and frequency of the terms", { x: "documents with the term", y: "tokens", ...termPoints(documents_frequency, (documents, count) => counted(documents, "document") + " · " + counted(count, "token")),
      fit: { factor: 1, power: 1, from: 1, to: documents_frequency.x[documents_frequency.x.length - 1] || 1 } }));
  const sorts = (/** @type {any[]} */ rows) => rows.map((row) => ({ name: row.name, parts: [{ count: row.kept, kind: "kept", name: "kept" }, { count: row.gone, kind: "dropped", name: "gone" }] }));
  if (tags.length) { figure("parts-of-speech", "Tokens by part of speech", "How many tokens of each part of speech are left, and how many were dropped or became part of others.", (place) => place.append(barRows(sorts(tags), "Tokens by part of speech", true))); }
  figure("kinds", "Tokens by what they are made of", "How many tokens of each kind are left, and how many were dropped or became part of others.", (place) => place.append(barRows(sorts(kinds), "Tokens by kind", true)));
  if (groupValues) {
    figure("groups", "Tokens by " + groupValues.field, "The tokens that are left in the documents with each value of the field, and the terms that mark it: those more frequent there than in all others, the strongest first (log-likelihood G²). Point at one for its numbers; click to open it.", drawGroupFigure);
  }
  if (growth.tokens.length) {
    figure("growth", "How the vocabulary grows with the text", "Distinct terms among the first tokens, in the order of the collection" + (growth.fit ? ". The dashed line is a power law (" + fitWords(growth.fit) + ")" : "") + ".",
      (place) => pointChart(place, "The growth of the vocabulary", { x: "tokens", y: "distinct terms", log: false, line: true, values: { x: growth.tokens, y: growth.terms }, fit: growth.fit,
        tell: (at) => counted(growth.tokens[at], "token") + " · " + counted(growth.terms[at], "term") }));
  }
  figure("lengths", "How long the documents are", "Documents by their number of tokens, as found and in the end, in ranges that double.", (place) => place.append(barRows(lengths.map((/** @type {any} */ row) => ({
    name: row.from === row.to ? grouped(row.from) : grouped(row.from) + "–" + grouped(row.to),
    parts: [{ count: row.before, kind: "dropped", name: "as found" }, { count: row.after, kind: "kept", name: "in the end" }],
  })), "Documents by length")));
  const cloud = document.getElementById("cloud-drawing");
  if (cloud) {
    figure("cloud", "The commonest terms", "The area of each word is as large as its number of tokens. Click one to open it.", (place) => {
      place.append(cloud);
      cloud.hidden = false;
      cloud.addEventListener("click", (event) => {
        const text = event.target instanceof Element ? event.target.closest("text") : null;
        const row = text ? rowNamed((text.textContent || "").trim()) : undefined;
        if (row !== undefined) { openTerm(row); }
      });
    });
  }
};

/** @param {HTMLElement} place */
const drawGroupFigure = (place) => {
  const { field, groups } = groupValues;
  place.append(barRows(groups.map((/** @type {any} */ group) => ({ name: group.name, parts: [{ count: group.tokens, kind: "kept", name: "tokens" }] })), "Tokens by " + field));
  const opener = (/** @type {any} */ key) => {
    const link = button(key.term, () => { const row = rowNamed(key.term); if (row !== undefined) { openTerm(row); } }, "link");
    link.title = visible(grouped(key.tokens) + " here, " + grouped(key.elsewhere) + " elsewhere, G² " + key.g2.toFixed(1));
    return link;
  };
  const rows = groups.map((/** @type {any} */ group) => [make("bdi", group.name), group.documents, group.tokens, group.terms, make("span", group.key_terms.flatMap((/** @type {any} */ key) => [opener(key), " "]))]);
  place.append(make("div", plainTable([field, "documents", "tokens", "terms", "marked by"], rows, "Groups"), "wide"));
};
