"use strict";
(function () {
  const data = JSON.parse(document.getElementById("curve").textContent);
  const place = document.getElementById("chart");
  if (!data.ranks.length) {
    return;
  }
  document.getElementById("still").hidden = true;
  const grouped = (n) => Math.round(n).toLocaleString("en");
  const tip = document.createElement("div");
  tip.className = "tip";
  tip.hidden = true;
  const covers = (chart) => {
    const pen = chart.ctx;
    pen.save();
    pen.font = "13px sans-serif";
    pen.lineWidth = 1;
    data.covers.forEach(([share, terms], number) => {
      if (terms < 1) {
        return;
      }
      const x = chart.valToPos(terms, "x", true);
      pen.strokeStyle = "#c98a2b";
      pen.beginPath();
      pen.moveTo(x, chart.bbox.top);
      pen.lineTo(x, chart.bbox.top + chart.bbox.height);
      pen.stroke();
      const right = x > chart.bbox.left + chart.bbox.width * 0.8;
      pen.textAlign = right ? "right" : "left";
      const label = Math.round(share * 100) + " % by " + grouped(terms);
      const left = x + (right ? -6 : 6);
      const base = chart.bbox.top + 14 + number * 18;
      const width = pen.measureText(label).width;
      pen.fillStyle = "#fff";
      pen.fillRect(right ? left - width : left, base - 12, width, 16);
      pen.fillStyle = "#1d2b33";
      pen.fillText(label, left, base);
    });
    pen.restore();
  };
  const hover = (chart) => {
    const at = chart.cursor.idx;
    tip.hidden = at === null || at === undefined;
    if (tip.hidden) {
      return;
    }
    tip.textContent = data.terms[at] + " · rank " + grouped(data.ranks[at]) + " · " + grouped(data.counts[at]) +
      (data.counts[at] === 1 ? " token" : " tokens");
    const x = chart.valToPos(data.ranks[at], "x");
    const y = chart.valToPos(data.counts[at], "y");
    tip.style.left = Math.max(0, Math.min(x + 14, chart.over.clientWidth - tip.offsetWidth)) + "px";
    tip.style.top = Math.max(0, y - 36) + "px";
  };
  const whole = (chart, splits) => splits.map((n) => (Math.abs(Math.log10(n) % 1) < 1e-9 && n >= 1 ? grouped(n) : ""));
  const most = data.counts[0];
  const last = data.ranks[data.ranks.length - 1];
  const options = {
    width: place.clientWidth - 34,
    height: 460,
    scales: {
      x: { time: false, distr: 3, range: [1, Math.max(10, last * 1.15)] },
      y: { distr: 3, range: [0.8, Math.max(10, most * 1.3)] },
    },
    axes: [
      { label: "rank of the term", values: whole, grid: { stroke: "#e3e8ea" } },
      { label: "number of tokens", values: whole, size: 72, grid: { stroke: "#e3e8ea" } },
    ],
    series: [
      { label: "rank" },
      { label: "tokens", paths: () => null, points: { show: true, size: 6, fill: "#1f7a8c", stroke: "#1f7a8c" } },
    ],
    cursor: { points: { size: 11 }, drag: { x: true, y: false } },
    legend: { show: false },
    hooks: { draw: [covers], setCursor: [hover] },
  };
  const chart = new uPlot(options, [data.ranks, data.counts], place);
  chart.over.appendChild(tip);
  window.addEventListener("resize", () => chart.setSize({ width: place.clientWidth - 34, height: 460 }));
})();
