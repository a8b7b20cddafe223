// @ts-check
"use strict";

/** Begins the page. */

/** Follows a link into the page: to a term or a document. */
const followLink = async () => {
  const [key, value] = location.hash.slice(1).split("=");
  if (key === "term" && value) {
    const [word, fate] = value.split("&");
    const wanted = decodeURIComponent(word);
    for (let row = 0; row < model.rows; row += 1) {
      if (wordOf(row) === wanted && fateOf(row) === (fate || "kept")) { await openTerm(row); return; }
    }
  }
  if (key === "document" && value) {
    const number = (await unpacked("documents-data")).id.indexOf(decodeURIComponent(value));
    if (number >= 0) { await openDocument(number); }
  }
};

/** Lets the documents open of which nothing is left. */
const linkEmptied = async () => {
  const place = document.getElementById("emptied");
  if (!place) { return; }
  const numbers = new Map((await unpacked("documents-data")).id.map((/** @type {string} */ id, /** @type {number} */ number) => [id, number]));
  const { ids, documents } = /** @type {{ids: string[], documents: number}} */ (overview.emptied);
  const shown = ids.flatMap((id) => [numbers.has(id) ? button(id, () => openDocument(numbers.get(id)), "link") : make("span", id), " · "]).slice(0, -1);
  place.replaceChildren(make("span", documents > ids.length ? [...shown, " and " + grouped(documents - ids.length) + " more"] : shown));
};

/** Marks the part of the page that is seen in the contents. */
const markContents = () => {
  const links = [...document.querySelectorAll("#contents a")];
  const watcher = new IntersectionObserver((seen) => seen.forEach((one) => {
    const link = links.find((link) => link.getAttribute("href") === "#" + one.target.id);
    if (link && one.isIntersecting) { links.forEach((other) => { if (other === link) { other.setAttribute("aria-current", "true"); } else { other.removeAttribute("aria-current"); } }); }
  }), { rootMargin: "-20% 0px -70% 0px" });
  document.querySelectorAll("main > section").forEach((section) => watcher.observe(section));
};

const start = async () => {
  themeSwitch(byId("theme"));
  markContents();
  if (!("DecompressionStream" in window)) {
    document.querySelectorAll(".needs-script").forEach((part) => { part.textContent = "This browser is too old to unpack the tables of this page. Any browser since 2023 can."; });
    return;
  }
  drawFlow(byId("flow"));
  await readModel();
  drawTerms();
  const figures = await unpacked("figures-data");
  [figureValues, groupValues] = [figures.figures, figures.groups];
  drawFigures();
  if (overview.shown.documents) {
    await drawDocuments();
    await linkEmptied();
  }
  // A link may name what this page does not hold.
  const follow = () => followLink().catch(() => undefined);
  window.addEventListener("hashchange", follow);
  await follow();
  document.documentElement.dataset.ready = "";
  // The first search is then as fast as others.
  setTimeout(searched, 300);
};

start();
