// @ts-check
"use strict";

/** The panel beside the page, in which a term or a document opens. What was open before is one step back. */

/** @typedef {{key: string, title: string, draw: (place: HTMLElement) => Promise<void>}} PanelView */

/** @type {PanelView[]} */
const panelViews = [];
/** What had the focus before the panel was opened.
 * @type {Element | null}
 */
let beforePanel = null;

/** Notes in the address what is open. Some browsers refuse that for a page from a disk, and nothing is lost then.
 * @param {string} address
 */
const noteAddress = (address) => {
  try { history.replaceState(null, "", address); } catch { /* The page works without. */ }
};

/** Shows the view on top. */
const drawPanel = async () => {
  const panel = byId("panel");
  const view = panelViews[panelViews.length - 1];
  document.body.classList.toggle("with-panel", Boolean(view));
  panel.hidden = !view;
  if (!view) {
    noteAddress(location.pathname + location.search);
    if (beforePanel instanceof HTMLElement && beforePanel.isConnected) { beforePanel.focus(); }
    return;
  }
  noteAddress("#" + view.key);
  const back = button("Back", () => { panelViews.pop(); drawPanel(); }, "back");
  back.hidden = panelViews.length < 2;
  const title = make("h2", view.title);
  title.id = "panel-title";
  title.tabIndex = -1;
  title.dir = "auto";
  const close = button("Close", () => { panelViews.length = 0; drawPanel(); });
  const place = make("div", [], "panel-body");
  panel.replaceChildren(make("div", [back, title, close], "panel-head"), place);
  title.focus({ preventScroll: true });
  await view.draw(place);
  place.dataset.ready = "";
};

/** Opens something in the panel.
 * @param {PanelView} view
 */
const openInPanel = (view) => {
  if (!panelViews.length) { beforePanel = document.activeElement; }
  if (!panelViews.length || panelViews[panelViews.length - 1].key !== view.key) { panelViews.push(view); }
  return drawPanel();
};

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && panelViews.length) {
    panelViews.length = 0;
    drawPanel();
  }
});
