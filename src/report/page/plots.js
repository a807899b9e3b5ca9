// Plots, in the page's colours.

const colorNamed = (name) => getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
const drawnPlots = new Set();

function plot(description, isLow, configuration) {
  const canvas = element("canvas", { role: "img", "aria-label": description });
  const box = element("div", { class: isLow ? "plot low" : "plot" }, canvas);
  const begin = () => {
    if (!box.isConnected) return;
    Chart.defaults.color = colorNamed("ink");
    Chart.defaults.borderColor = colorNamed("line");
    Chart.getChart(canvas)?.destroy();
    new Chart(canvas, { ...configuration(), options: { animation: false, maintainAspectRatio: false, responsive: true, ...configuration().options } });
  };
  drawnPlots.add(begin);
  requestAnimationFrame(begin);
  return box;
}

matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => drawnPlots.forEach((begin) => begin()));

const none = 0.5;  // what stands for 0 where counts grow by factors

function histogramPlot({ unit, from, to, channels }) {
  const bins = channels[0].counts.length;
  const width = (to - from) / bins;
  const inCodes = unit === "codes" && from === 0;
  const labels = channels[0].counts.map((_, bin) => (inCodes ? bin : +(from + width * bin).toFixed(2)));
  const colors = { red: "red", green: "green", blue: "blue", alpha: "gray" };
  const total = channels[0].counts.reduce((sum, count) => sum + count, channels[0].without);
  const sets = () => channels.map(({ name, counts }) => ({ label: name, data: counts.map((count) => Math.max(count, none)), borderColor: colorNamed(colors[name]), borderWidth: 1.5, pointRadius: 0, stepped: true }));
  const text = `Histogram of ${total} texels: ${channels.map(({ name, counts }) => `${name} mostly about ${labels[counts.indexOf(Math.max(...counts))]}`).join(", ")}`;
  return plot(text, false, () => ({
    type: "line",
    data: { labels, datasets: sets() },
    options: {
      plugins: { legend: { labels: { boxWidth: 14, boxHeight: 2 } }, tooltip: { callbacks: { label: ({ dataset, raw }) => `${dataset.label}: ${Math.floor(raw)}` } } },
      interaction: { mode: "index", intersect: false },
      scales: {
        x: { title: { display: true, text: inCodes ? "code" : unit === "stops" ? "stops of light" : "value" }, ticks: { maxTicksLimit: 9, maxRotation: 0 }, grid: { display: false } },
        y: { type: "logarithmic", min: none, title: { display: true, text: "texels" }, ticks: { maxTicksLimit: 5, callback: (count) => (count < 1 ? "" : String(count)) } },
      },
    },
  }));
}

/** Bars of bytes by name. */
function memoryPlot(title, rows) {
  return plot(`${title}: ${rows.map(([name, bytes]) => `${name} ${bytesText(bytes)}`).join(", ")}`, true, () => ({
    type: "bar",
    data: { labels: rows.map(([name]) => name), datasets: [{ data: rows.map(([, bytes]) => bytes), backgroundColor: colorNamed("mark"), maxBarThickness: 18 }] },
    options: {
      indexAxis: "y",
      plugins: { legend: { display: false }, tooltip: { callbacks: { label: ({ raw }) => bytesText(raw) } } },
      scales: { x: { ticks: { maxTicksLimit: 5, callback: bytesText }, grid: { display: false } }, y: { grid: { display: false } } },
    },
  }));
}
