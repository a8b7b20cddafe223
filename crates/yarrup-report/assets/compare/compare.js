"use strict";
(function () {
  const data = JSON.parse(byId("data").textContent);
  const page = byId("page");
  const FIRST = 20;
  const STEP = 200;
  // A table that can be filtered and sorted; columns are {title, value, show, text}.
  const table = (rows, columns, options) => {
    const asked = options || {};
    const box = make("div");
    const wide = make("div", [], "wide");
    const drawn = make("table");
    const head = make("tr");
    const body = make("tbody");
    const state = { sort: null, down: true, shown: FIRST, filter: "" };
    const found = () => {
      const wanted = state.filter.toLowerCase();
      let left = wanted ? rows.filter((row) => columns.some((column) => column.text && String(column.value(row)).toLowerCase().includes(wanted))) : rows.slice();
      if (state.sort !== null) {
        const value = columns[state.sort].value;
        const sign = state.down ? -1 : 1;
        left.sort((a, b) => {
          const [one, other] = [value(a), value(b)];
          return (one < other ? -1 : one > other ? 1 : 0) * sign;
        });
      }
      return left;
    };
    const more = make("button", "Show more");
    const told = make("span", [], "faint");
    const draw = () => {
      const left = found();
      body.replaceChildren(...left.slice(0, state.shown).map((row) => {
        const line = make("tr", columns.map((column) => {
          const shown = column.show ? column.show(row) : column.value(row);
          return make("td", shown === null || shown === undefined ? "" : shown, column.text ? "text" : "");
        }));
        if (asked.kind) { line.className = asked.kind(row); }
        return line;
      }));
      more.hidden = left.length <= state.shown;
      const all = asked.all && asked.all > rows.length ? " of the first " + grouped(rows.length) + ", of " + grouped(asked.all) + " in all; the tables beside this page hold the rest" : " of " + grouped(rows.length);
      told.textContent = grouped(Math.min(left.length, state.shown)) + " shown" + all;
    };
    columns.forEach((column, place) => {
      const button = make("button", column.title);
      button.addEventListener("click", () => {
        state.down = state.sort === place ? !state.down : !column.text;
        state.sort = place;
        [...head.children].forEach((cell, at) => cell.setAttribute("aria-sort", at === place ? (state.down ? "descending" : "ascending") : "none"));
        draw();
      });
      const cell = make("th", button, column.text ? "text" : "");
      cell.scope = "col";
      head.append(cell);
    });
    more.addEventListener("click", () => { state.shown += STEP; draw(); });
    drawn.append(make("thead", head), body);
    wide.append(drawn);
    if (rows.length > 12) {
      const filter = make("input");
      filter.type = "search";
      filter.placeholder = "Filter";
      filter.setAttribute("aria-label", "Filter the rows");
      filter.addEventListener("input", () => { state.filter = filter.value; state.shown = FIRST; draw(); });
      box.append(make("div", [filter, told], "bar"));
    }
    box.append(wide, more);
    draw();
    return box;
  };
  const sections = [];
  const section = (id, title) => {
    const heading = make("h2", title);
    heading.id = id;
    page.append(heading);
    sections.push([id, title]);
    return page;
  };
  const number = (title, value) => ({ title, value, show: (row) => { const found = value(row); return found === null || found === undefined ? "" : grouped(found); } });
  const text = (title, value) => ({ title, value, text: true });
  const part = (title, value) => ({ title, value, show: (row) => { const found = value(row); return found === null || found === undefined ? "" : share(found); } });
  const facts = (pairs) => {
    page.append(make("ul", pairs.map(([value, name]) => make("li", [make("b", value), make("span", name)])), "facts"));
  };

  const sums = () => {
    section("sums", "In sums");
    const columns = [text("side", (side) => side.letter), text(data.compared === "runs" ? "run" : "recipe", (side) => side.name)];
    [["documents", "documents"], ["emptied", "emptied"], ["tokens_found", "tokens found"], ["tokens", "tokens kept"], ["terms", "terms"], ["hapaxes", "once only"], ["cover_half", "cover half"], ["cover_most", "cover 90 %"]]
      .forEach(([key, title]) => columns.push(number(title, (side) => side.overview[key])));
    if (data.label) {
      columns.push(part("accuracy", (side) => side.label && side.label.accuracy), part("information kept", (side) => side.label && side.label.information_kept));
    }
    page.append(table(data.sides, columns));
    if (data.label) {
      const found = data.label.as_found;
      page.append(make("p", "Accuracy: how often a multinomial naive Bayes model tells `" + data.label.field + "` rightly from the terms, learned on four fifths of " + grouped(data.label.documents) + " documents and asked about the rest, five times. Text as found: " + share(found.accuracy) + "; always the commonest label: " + share(found.majority) + ".", "faint"));
      page.append(table(data.sides, [text("side", (side) => side.letter), text("recipe", (side) => side.name), part("accuracy", (side) => side.label.accuracy),
        { title: "95 of 100 drawings", value: (side) => side.label.accuracy_range[0], show: (side) => side.label.accuracy_range.map(share).join(" to ") },
        { title: "against A", value: (side) => (side.label.gain_range ? side.label.gain_range[0] : 0), show: (side) => {
          const range = side.label.gain_range;
          if (range && range[0] === 0 && range[1] === 0) { return "the same"; }
          return range ? range.map((n) => (n >= 0 ? "+" : "−") + Math.abs(n * 100).toFixed(1)).join(" to ") + " points" + (range[0] <= 0 && range[1] >= 0 ? ": may be chance" : "") : "";
        } },
        { title: "macro F1", value: (side) => side.label.macro_f1, show: (side) => side.label.macro_f1.toFixed(3) }]));
    }
    if (data.pairs.length > 1) {
      const name = (pair) => data.sides.find((side) => side.letter === pair.there).name;
      page.append(make("h3", "Against A"));
      page.append(table(data.pairs, [text("side", (pair) => pair.there), text("", name),
        number("only in A", (pair) => pair.vocabulary.only_here.terms), number("only here", (pair) => pair.vocabulary.only_there.terms),
        part("shared tokens", (pair) => pair.measures.shared_tokens),
        { title: "rank overlap", value: (pair) => pair.measures.rank_overlap, show: (pair) => pair.measures.rank_overlap.toFixed(3) },
        number("together here", (pair) => pair.together_there && pair.together_there.tokens), number("apart here", (pair) => pair.together_here && pair.together_here.tokens),
        part("documents changed", (pair) => pair.measures.changed_documents_share)]));
    }
  };
  const entries = (list) => (list.length ? list.slice(0, 40).join(", ") + (list.length > 40 ? " and " + grouped(list.length - 40) + " more" : "") : "");
  const steps = (pair) => {
    section("steps", "The steps");
    const language = (letter) => data.sides.find((side) => side.letter === letter).language || "none";
    if (language("A") !== language(pair.there)) { page.append(make("p", "Language of the recipes: " + language("A") + " → " + language(pair.there))); }
    const names = { same: "same", moved: "moved", changed: "changed", removed: "only in A", added: "only in " + pair.there };
    page.append(table(pair.steps, [
      { title: "A", value: (step) => step.here }, { title: pair.there, value: (step) => step.there },
      text("step", (step) => step.operation), text("change", (step) => names[step.status]),
      { title: "what differs", text: true, value: (step) => step.keys.map((key) => key.name).join(" "), show: (step) => step.keys.map((key) => {
        if (step.status === "added" || step.status === "removed") { return make("div", key.name + ": " + (key.here === null ? key.there : key.here)); }
        const line = make("div", key.name + ": " + (key.here === null ? "–" : key.here) + " → " + (key.there === null ? "–" : key.there));
        if (key.entries_here.length) { line.append(make("div", ["only in A: ", make("del", entries(key.entries_here))])); }
        if (key.entries_there.length) { line.append(make("div", ["only in " + pair.there + ": ", make("ins", entries(key.entries_there))])); }
        return line;
      }) },
    ], { kind: (step) => step.status }));
  };
  const vocabulary = (pair) => {
    const found = pair.vocabulary;
    section("vocabulary", "The vocabularies");
    facts([[grouped(found.common), "terms in both"], [grouped(found.only_here.terms), "only in A, " + grouped(found.only_here.tokens) + " tokens"],
      [grouped(found.only_there.terms), "only in " + pair.there + ", " + grouped(found.only_there.tokens) + " tokens"],
      [share(pair.measures.shared_terms), "of the terms shared"], [share(pair.measures.shared_tokens), "of the tokens shared"], [pair.measures.rank_overlap.toFixed(3), "rank-biased overlap (1: the same order)"]]);
    [["Only in A", found.only_here, "what becomes of it in " + pair.there], ["Only in " + pair.there, found.only_there, "what becomes of it in A"]].forEach(([title, rows, why]) => {
      if (!rows.list.length) { return; }
      page.append(make("h3", title));
      const columns = [text("term", (row) => row.term), number("tokens", (row) => row.count), number("documents", (row) => row.documents), number("rank", (row) => row.rank)];
      if (rows.list[0].why !== null) { columns.push(text(why, (row) => row.why)); }
      page.append(table(rows.list, columns, { all: rows.terms }));
    });
    if (found.movers.length && !pair.drift) {
      page.append(make("h3", "Ranks that move most"));
      page.append(table(found.movers, [text("term", (row) => row.term), number("rank in A", (row) => row.here.rank), number("rank in " + pair.there, (row) => row.there.rank),
        number("tokens in A", (row) => row.here.count), number("tokens in " + pair.there, (row) => row.there.count)]));
    }
  };
  const together = (pair) => {
    if (!pair.together_here || (!pair.together_here.list.length && !pair.together_there.list.length)) { return; }
    section("together", "Words that fall together");
    page.append(make("p", "Words that are one term under one recipe, and several under the other. Tokens are those of all parts but the largest.", "faint"));
    [["only in A", pair.together_here], ["only in " + pair.there, pair.together_there]].forEach(([title, rows]) => {
      if (!rows.list.length) { return; }
      page.append(make("h3", title + ": " + grouped(rows.groups) + " groups, " + grouped(rows.tokens) + " tokens"));
      page.append(table(rows.list, [text("term", (row) => row.term), number("tokens", (row) => row.tokens),
        text("apart in the other", (row) => row.parts.map((one) => (one.form.toLowerCase() === one.term ? one.term : one.form) + " " + grouped(one.tokens)).join(" + "))], { all: rows.groups }));
    });
  };
  const splits = (pair) => {
    if (!pair.splits || !pair.splits.kinds.length) { return; }
    const names = { parted: "whole in A, parted in " + pair.there, whole: "parted in A, whole in " + pair.there, cut_elsewhere: "cut at other places", other_edges: "other edges", only_here: "tokens only in A", only_there: "tokens only in " + pair.there };
    section("splits", "Where the text is cut otherwise");
    facts(pair.splits.kinds.map((row) => [grouped(row.count), names[row.kind]]).concat([[grouped(pair.splits.alike), "tokens at the same places"]]));
    page.append(table(pair.splits.list, [text("how", (row) => names[row.kind]), text("made of", (row) => row.of), text("A", (row) => row.here.join(" · ")), text(pair.there, (row) => row.there.join(" · ")), number("places", (row) => row.count)]));
  };
  const documents = (pair) => {
    if (!pair.documents) { return; }
    const found = pair.documents;
    section("documents", "The documents");
    page.append(make("p", grouped(found.all.changed) + " of " + grouped(found.all.documents) + " documents change; " + share(found.share) + " of their terms differ."));
    const groups = Object.entries(found.groups);
    if (groups.length) {
      page.append(table(groups, [text(data.by || "group", (row) => row[0]), number("documents", (row) => row[1].documents), number("changed", (row) => row[1].changed),
        number("terms in A", (row) => row[1].terms.here), number("terms in " + pair.there, (row) => row[1].terms.there), part("differ", (row) => row[1].share)]));
    }
    if (!found.list.length) { return; }
    page.append(make("h3", "Those that change most"));
    found.list.forEach((one) => {
      const box = make("details");
      box.append(make("summary", [make("b", one.id), " · " + grouped(one.change.here) + " terms in A, " + grouped(one.change.there) + " in " + pair.there + ", " + grouped(one.change.common) + " in both"]));
      box.addEventListener("toggle", () => {
        if (!box.open || box.childElementCount > 1) { return; }
        const cleaned = make("p");
        one.differences.forEach((stretch) => {
          const [[kind, terms]] = Object.entries(stretch);
          const name = { same: "span", here: "del", there: "ins" }[kind];
          cleaned.append(make(name, terms.join(" ")), " ");
        });
        box.append(make("div", [make("h3", "Cleaned: struck out what only A leaves, marked what only " + pair.there + " leaves"), cleaned, make("h3", "As it was found"), make("p", one.text)], "texts"));
      });
      page.append(box);
    });
  };
  const drift = (pair) => {
    if (!pair.drift) { return; }
    section("drift", "What has changed");
    const lengths = pair.drift.lengths;
    facts([[share(pair.drift.unknown_share), "of the tokens of " + pair.there + " are of terms that A has not got"], [share(pair.drift.gone_share), "of the tokens of A are of terms that " + pair.there + " has not got"],
      [lengths.mean.map((n) => n.toFixed(1)).join(" → "), "tokens a document, on average"], [share(lengths.distance), "distance of the lengths"]]);
    const shares = Object.entries(pair.drift.language_shares);
    if (shares.length) {
      page.append(make("h3", "Languages"));
      page.append(table(shares, [text("language", (row) => row[0]), part("A", (row) => row[1][0]), part(pair.there, (row) => row[1][1])]));
    }
    page.append(make("h3", "Terms whose share moved most"));
    page.append(table(pair.drift.moved, [text("term", (row) => row.term), number("tokens in A", (row) => row.here), number("tokens in " + pair.there, (row) => row.there),
      { title: "log-likelihood", value: (row) => row.g2, show: (row) => row.g2.toFixed(1) }, { title: "times as often", value: (row) => row.times, show: (row) => row.times.toFixed(2) }]));
  };
  let chosen = 0;
  const draw = () => {
    page.replaceChildren();
    sections.length = 0;
    sums();
    const pair = data.pairs[chosen];
    [steps, vocabulary, drift, together, splits, documents].forEach((one) => one(pair));
    const contents = byId("links");
    contents.replaceChildren(make("ul", sections.map(([id, title]) => {
      const link = make("a", title);
      link.href = "#" + id;
      return make("li", link);
    })));
    if (data.pairs.length > 1) {
      const choice = make("select");
      data.pairs.forEach((one, place) => {
        const option = make("option", one.there + "  " + data.sides.find((side) => side.letter === one.there).name);
        option.value = place;
        option.selected = place === chosen;
        choice.append(option);
      });
      choice.addEventListener("change", () => { chosen = Number(choice.value); draw(); });
      contents.append(make("label", ["A against ", choice], "pair"));
    }
  };
  themeSwitch(byId("theme"));
  byId("about").textContent = data.pairs[0].drift ? "Runs of different documents" :
    grouped(data.documents) + " documents from " + data.sources.slice(0, 3).map(visible).join(", ") + (data.sources.length > 3 ? " and " + grouped(data.sources.length - 3) + " more" : "");
  draw();
})();
