// All textures in a table that is sorted, filtered and searched, and what they come to.

const findingLevels = ["error", "warning", "hint"];  // the worst first
const countOf = ({ findings }, level) => findings.filter((finding) => finding.level === level).length;
const worst = (facts) => findingLevels.find((level) => countOf(facts, level) > 0) ?? "nothing";
const weightOf = (facts) => findingLevels.reduce((sum, level) => sum * 1000 + countOf(facts, level), 0);

const columns = [
  { title: "Texture", value: ({ name }) => name.toLowerCase() },
  { title: "Role", value: ({ role }) => role },
  { title: "Format", value: ({ format }) => format },
  { title: "Size", value: ({ width, height, depth, layers, faces }) => width * height * depth * layers * faces, isNumber: true },
  { title: "Levels", value: ({ levels }) => levels.length, isNumber: true },
  { title: "On the GPU", value: ({ gpu_bytes }) => gpu_bytes, isNumber: true },
  { title: "File", value: ({ file_bytes }) => file_bytes, isNumber: true },
  { title: "Findings", value: weightOf, isNumber: true },
];
const secondsText = (seconds) => (seconds < 0.1 ? `${Math.max(Math.round(1000 * seconds), 1)} ms` : `${seconds.toFixed(seconds < 10 ? 2 : 0)} s`);
const buildColumn = { title: "Built in", value: ({ build }) => (build?.source === "built" ? build.seconds : -1), isNumber: true };

const thumbnailOf = ({ thumbnail }) => element("img", { class: "thumbnail", alt: "", src: `data:image/webp;base64,${thumbnail}` });

function chips(facts) {
  if (facts.findings.length === 0) return element("span", { class: "quiet" }, "none");
  return findingLevels.flatMap((level) => [countOf(facts, level) > 0 && element("span", { class: `chip ${level}` }, counted(countOf(facts, level), level)), " "]);
}

function textureRow(facts, index, hasBuilds) {
  return element("tr", {},
    element("td", {}, thumbnailOf(facts)),
    element("td", { class: "name" }, element("a", { href: `#texture-${index}` }, facts.name)),
    element("td", {}, facts.role), element("td", {}, facts.format),
    element("td", { class: "number" }, sizeText(facts)),
    element("td", { class: "number" }, String(facts.levels.length)),
    element("td", { class: "number" }, bytesText(facts.gpu_bytes)),
    element("td", { class: "number" }, facts.file_bytes > 0 ? bytesText(facts.file_bytes) : ""),
    element("td", { class: "number" }, chips(facts)),
    hasBuilds && element("td", { class: "number" }, facts.build ? (facts.build.source === "built" ? secondsText(facts.build.seconds) : facts.build.source) : ""));
}

/** Rows of [name, bytes, count] by a member of the textures' facts, the largest first. */
function totals(textures, member) {
  const sums = new Map();
  for (const facts of textures) {
    const [bytes, count] = sums.get(facts[member]) ?? [0, 0];
    sums.set(facts[member], [bytes + facts.gpu_bytes, count + 1]);
  }
  return [...sums].map(([name, [bytes, count]]) => [name, bytes, count]).sort((a, b) => b[1] - a[1]);
}

function totalsPanel(title, heading, rows) {
  return panel(title, memoryPlot(title, rows), element("table", {},
    element("thead", {}, element("tr", {}, [heading, "Textures", "Memory"].map((text, i) => element("th", { scope: "col", class: i > 0 ? "number" : null }, text)))),
    element("tbody", {}, rows.map(([name, bytes, count]) => element("tr", {}, element("td", {}, name), element("td", { class: "number" }, String(count)), element("td", { class: "number" }, bytesText(bytes)))))));
}

class TextureTable {
  constructor(textures) {
    this.textures = textures;
    this.hasBuilds = textures.some(({ build }) => build);
    this.columns = this.hasBuilds ? [...columns, buildColumn] : columns;
    this.search = "";
    this.only = { role: "", format: "", findings: "" };
    this.sort = { column: -1, isDown: false };
    this.body = element("tbody");
    this.status = element("p", { class: "quiet", role: "status" });
    this.heads = this.columns.map(({ title, isNumber }, column) => element("th", { scope: "col", class: isNumber ? "number" : null }, element("button", { type: "button", onclick: () => this.sortBy(column) }, title)));
    const names = (member) => [["", "any"], ...[...new Set(textures.map((facts) => facts[member]))].sort().map((name) => [name])];
    const searchBox = element("input", { type: "search", placeholder: "name, role, format or finding" });
    searchBox.addEventListener("input", () => this.change(() => (this.search = searchBox.value.trim().toLowerCase())));
    const filter = (label, member, list) => select(label, list, "", (value) => this.change(() => (this.only[member] = value)));
    this.element = panel("Textures",
      element("div", { class: "controls" }, element("label", {}, "Search", searchBox), filter("Role", "role", names("role")), filter("Format", "format", names("format")),
        filter("Findings", "findings", [["", "any"], ["error", "errors"], ["warning", "warnings at worst"], ["hint", "hints alone"], ["nothing", "none"]])),
      element("div", { class: "wide", tabindex: "0", role: "region", "aria-label": "Table of textures" }, element("table", {}, element("thead", {}, element("tr", {}, element("td"), this.heads)), this.body)), this.status);
    this.show();
  }

  change(work) {
    work();
    this.show();
  }

  sortBy(column) {
    this.change(() => (this.sort = { column, isDown: this.sort.column === column ? !this.sort.isDown : false }));
  }

  matches(facts) {
    const { role, format, findings } = this.only;
    const text = [facts.name, facts.file, facts.role, facts.format, ...facts.findings.map(({ code }) => code)].join("\n").toLowerCase();
    return text.includes(this.search) && (!role || facts.role === role) && (!format || facts.format === format) && (!findings || worst(facts) === findings);
  }

  show() {
    const rows = this.textures.map((facts, index) => ({ facts, index })).filter(({ facts }) => this.matches(facts));
    const { column, isDown } = this.sort;
    if (column >= 0) {
      const { value } = this.columns[column];
      rows.sort((a, b) => (value(a.facts) < value(b.facts) ? -1 : value(a.facts) > value(b.facts) ? 1 : 0) * (isDown ? -1 : 1));
    }
    this.heads.forEach((head, i) => head.setAttribute("aria-sort", i !== column ? "none" : isDown ? "descending" : "ascending"));
    this.body.replaceChildren(...rows.map(({ facts, index }) => textureRow(facts, index, this.hasBuilds)));
    const bytes = rows.reduce((sum, { facts }) => sum + facts.gpu_bytes, 0);
    const seconds = rows.reduce((sum, { facts }) => sum + (facts.build?.source === "built" ? facts.build.seconds : 0), 0);
    const stale = rows.filter(({ facts }) => facts.build && facts.build.state !== "up to date").length;
    this.status.textContent = [
      `${rows.length} of ${counted(this.textures.length, "texture")}`, `${bytesText(bytes)} on the GPU`,
      this.hasBuilds && `built in ${seconds.toFixed(1)} s all in all`, stale > 0 && `${stale} not up to date`,
    ].filter(Boolean).join(", ");
  }
}

function findingItem(finding) {
  const place = finding.place ? `${finding.place}: ` : "";
  return element("li", {},
    element("span", { class: `chip ${finding.level}` }, finding.level), " ", element("code", {}, finding.code),
    element("p", {}, place + finding.problem),
    finding.seen && element("p", { class: "quiet" }, `Seen: ${finding.seen}`),
    finding.remedy && element("p", {}, `Remedy: ${finding.remedy}`),
    finding.command && element("p", {}, element("code", {}, finding.command)));
}

const findingList = (findings) => (findings.length > 0 ? element("ul", { class: "findings" }, findings.map(findingItem)) : element("p", { class: "quiet" }, "Nothing was found."));

function modelPanel(model, picture) {
  const row = ({ name }, { slot, texture, image, sampler }) => element("tr", {},
    element("td", {}, name), element("td", {}, slot), element("td", { class: "name" }, texture === null ? image : element("a", { href: `#texture-${texture}` }, image)), element("td", {}, element("code", {}, sampler)));
  return panel(`Model ${model.name}`, element("div", { class: "columns model" },
    picture && element("img", { alt: `${model.name}, drawn with its textures`, src: `data:image/webp;base64,${picture}` }),
    element("div", { class: "wide", tabindex: "0", role: "region", "aria-label": `Materials of ${model.name}` },
      element("p", { class: "quiet" }, `${counted(model.triangles, "triangle")}, ${counted(model.materials.length, "material")}`),
      element("table", {}, element("thead", {}, element("tr", {}, ["Material", "Slot", "Texture", "Sampler"].map((text) => element("th", { scope: "col" }, text)))),
        element("tbody", {}, model.materials.flatMap((material) => material.bindings.map((binding) => row(material, binding))))))),
    model.findings.length > 0 && findingList(model.findings));
}

const memberNames = { gpu_bytes: "memory on the GPU", file_bytes: "file", texels: "other texels" };

function changeText({ member, before, now }) {
  const name = memberNames[member] ?? member;
  if (before === null) return name;
  if (Array.isArray(before)) {
    const list = (codes, other, word) => codes.filter((code) => !other.includes(code)).map((code) => `${word} ${code}`);
    return [...list(now, before, "now"), ...list(before, now, "no longer")].join(", ");
  }
  const text = (value) => (member.endsWith("_bytes") ? bytesText(value) : String(value));
  return `${name} ${text(now)}, was ${text(before)}`;
}

function changesPanel({ title, added, changed, gone }) {
  const rows = [
    ...added.map((name) => [name, "new"]),
    ...changed.map(({ name, what }) => [name, what.map(changeText).join("; ")]),
    ...gone.map((name) => [name, "gone"]),
  ];
  return panel(`Changed since \u201c${title}\u201d`, rows.length === 0 ? element("p", { class: "quiet" }, "Nothing.") : element("table", {},
    element("thead", {}, element("tr", {}, element("th", { scope: "col" }, "Texture"), element("th", { scope: "col" }, "Change"))),
    element("tbody", {}, rows.map(([name, change]) => element("tr", {}, element("td", { class: "name" }, name), element("td", {}, change))))));
}

function overview({ textures, models, failures, changes }) {
  const pictures = jsonOf("model-pictures");
  const found = textures.filter(({ findings }) => findings.length > 0);
  return [
    element("h2", { class: "hidden-text" }, "Overview"),
    changes && changesPanel(changes),
    failures.length > 0 && panel("Not shown", element("ul", {}, failures.map(({ file, problem }) => element("li", {}, `${file}: ${problem}`)))),
    new TextureTable(textures).element,
    models.map((model, i) => modelPanel(model, pictures[i])),
    textures.length > 0 && element("div", { class: "columns" }, totalsPanel("Memory by role", "Role", totals(textures, "role")), totalsPanel("Memory by format", "Format", totals(textures, "format"))),
    element("div", { class: "for-print" }, found.map((facts) => panel(facts.name, findingList(facts.findings)))),
  ].flat().filter(Boolean);
}
