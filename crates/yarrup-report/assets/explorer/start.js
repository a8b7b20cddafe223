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
  document.querySelectorAll("[data-document]").forEach((link) => link.addEventListener("click", () => openDocument(Number(link.getAttribute("data-document")))));
  await readModel();
  drawTerms();
  const figures = await unpacked("figures-data");
  [figureValues, groupValues] = [figures.figures, figures.groups];
  drawFigures();
  if (overview.shown.documents) { await drawDocuments(); }
  // A link may name what this page does not hold.
  await followLink().catch(() => undefined);
  document.documentElement.dataset.ready = "";
};

start();
