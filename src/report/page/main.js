// What is shown follows the address: #texture-3 is a texture, anything else the overview.

const report = jsonOf("report");
let device;  // once a texture is looked at; null without WebGL 2
let opened = null;
const byId = (id) => document.getElementById(id);

function deviceOf() {
  if (device === undefined) device = LiveDevice.create();
  return device;
}

function show() {
  opened?.end();
  opened = null;
  drawnPlots.clear();
  const match = /^#texture-(\d+)$/.exec(location.hash);
  const index = match ? Number(match[1]) : -1;
  const facts = report.textures[index];
  byId("overview").hidden = facts !== undefined;
  byId("detail").hidden = facts === undefined;
  if (facts) {
    opened = detail(index, facts, report.textures.length, deviceOf());
    byId("detail").replaceChildren(...opened.panels);
    byId("detail").querySelector("h2").focus({ preventScroll: true });
  } else {
    byId("detail").replaceChildren();
    byId("overview").replaceChildren(...overview(report));
  }
  document.title = facts ? `${facts.name} \u2013 ${report.title}` : report.title;
  scrollTo(0, 0);
}

const found = findingLevels.slice(0, 2).map((level) => [report.textures.reduce((sum, facts) => sum + countOf(facts, level), 0), level]).filter(([count]) => count > 0).map(([count, level]) => counted(count, level));
byId("title").textContent = report.title;
byId("totals-line").textContent = `${counted(report.textures.length, "texture")}, ${bytesText(report.textures.reduce((sum, { gpu_bytes }) => sum + gpu_bytes, 0))} on the GPU${found.map((text) => `, ${text}`).join("")}`;
byId("made-by").textContent = `Made by ${report.made_by}. Nothing is loaded from elsewhere.`;
addEventListener("hashchange", show);
show();
