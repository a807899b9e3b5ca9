// One texture: its picture, a live view, findings, numbers, and what compression did to it.

const wrapNames = [["repeat"], ["mirror"], ["clamp-to-edge"], ["clamp-to-border"], ["mirror-once"]];

/** As the tool's options take it. */
function samplerText({ mag, min, mip, wrap, aniso, lod, bias, border }) {
  const parts = [`mag=${mag} min=${min} mip=${mip}`];
  const [u, v] = wrap;
  parts.push(`wrap=${u === v ? u : `${u},${v}`}`);
  if (u === "clamp-to-border" || v === "clamp-to-border") parts.push(`border=${border.join(",")}`);
  if (aniso > 1) parts.push(`aniso=${aniso}`);
  if (lod[0] > 0 || lod[1] < 1000) parts.push(`lod=${lod[0]}..${lod[1]}`);
  if (bias !== 0) parts.push(`bias=${bias}`);
  return parts.join(" ");
}

function levelSlider(texels, level, onchange) {
  const text = (value) => {
    const { width, height } = texels.sizeOf(value);
    return `${value} (${width} \u00d7 ${height})`;
  };
  return texels.packed.length > 1 ? slider("Level", { min: texels.first, max: texels.levels - 1, value: level }, text, onchange) : null;
}

/** Layers of arrays, slices of volumes. */
function partSlider({ layers, depth }, onchange) {
  const [noun, count] = layers > 1 ? ["layer", layers] : ["slice", depth];
  return count > 1 ? slider(noun === "layer" ? "Layer" : "Slice", { min: 0, max: count - 1, value: 0 }, String, (value) => onchange({ [noun]: value })) : null;
}

function stopsSlider(facts, onchange) {
  return facts.histogram.unit === "stops" ? slider("Exposure", { min: -8, max: 8, step: 0.5, value: 0 }, (value) => `${value} stops`, onchange) : null;
}

const sayWhatIsShown = ({ shown, levels }) =>
  shown.is_scaled ? "The page holds a smaller picture of this texture." : shown.first_level > 0 ? `The page holds levels ${shown.first_level} to ${levels.length - 1}; larger ones are left out for its size.` : "";

function picturePanel(texels) {
  const { facts } = texels;
  const state = { level: texels.first, place: {}, view: facts.role === "normal" ? "normal" : "color", stops: 0 };
  const canvas = element("canvas", { role: "img", "aria-label": `${facts.name}, level ${state.level}` });
  const stage = element("div", { class: "stage" }, canvas);
  const show = coalesced(async () => {
    await paint(canvas, texels, state.level, state.place, async (place) => imageOf(await texels.surface(state.level, place), facts, state.view, state.stops));
    canvas.setAttribute("aria-label", `${facts.name}, level ${state.level}, ${views[state.view]}`);
    fit(canvas, stage.clientWidth || 512);
  });
  const change = (member) => (value) => {
    state[member] = value;
    show();
  };
  const offered = Object.entries(views).filter(([view]) => (view !== "alpha" || facts.has_alpha) && (view !== "normal" || facts.faces === 1));
  show();
  const note = sayWhatIsShown(facts);
  return panel("Picture", note && element("p", { class: "notice" }, note),
    element("div", { class: "controls" }, select("Show", offered, state.view, change("view")), levelSlider(texels, state.level, change("level")), partSlider(facts, change("place")), stopsSlider(facts, change("stops"))), stage);
}

/** Listens to dragging and arrow keys. */
function turnBy(canvas, turn) {
  canvas.addEventListener("pointerdown", (event) => canvas.setPointerCapture(event.pointerId));
  canvas.addEventListener("pointermove", (event) => {
    if (canvas.hasPointerCapture(event.pointerId)) turn(-event.movementX * 0.25, event.movementY * 0.25);
  });
  const keys = { ArrowLeft: [-5, 0], ArrowRight: [5, 0], ArrowUp: [0, 5], ArrowDown: [0, -5] };
  canvas.addEventListener("keydown", (event) => {
    if (!keys[event.key]) return;
    event.preventDefault();
    turn(...keys[event.key]);
  });
}

class LivePanel {
  constructor(texels, device) {
    this.texels = texels;
    this.device = device;
    const { facts } = texels;
    // What is not repeated covers hardly any of a floor.
    this.first = facts.faces === 6 || facts.sampler.wrap[0] === "repeat" || facts.sampler.wrap[1] === "repeat" ? 0 : 1;
    this.state = { scene: facts.scenes[this.first], sampler: structuredClone(facts.sampler), place: {}, yaw: 0, pitch: 0, stops: 0 };
    this.isCube = facts.faces === 6;
    this.canvas = element("canvas", { role: "img", tabindex: this.isCube ? "0" : null, class: this.isCube ? "turns" : null, id: "live" });
    this.text = element("code", {});
    this.note = element("p", { class: "quiet", role: "status" });
    this.usual = element("div", { class: "usual" });
    this.show = coalesced(() => this.draw());
    if (this.isCube) turnBy(this.canvas, (yaw, pitch) => this.turn(yaw, pitch));
    this.begin();
  }

  get elements() {
    return [panel("Live view", this.controls(), element("div", { class: "live" }, this.canvas), element("p", {}, this.text), this.note), panel("Samplers side by side", this.usual)];
  }

  async begin() {
    this.upload = this.device.upload(this.texels, this.state.place);
    await this.upload;
    this.show();
  }

  /** A context holds the texture until the reader goes on. */
  async end() {
    this.hasEnded = true;
    this.device.free(await this.upload);
  }

  turn(yaw, pitch) {
    this.state.yaw = (this.state.yaw + yaw + 360) % 360;
    this.state.pitch = Math.max(-90, Math.min(90, this.state.pitch + pitch));
    this.show();
  }

  get scene() {
    const { scene, yaw, pitch, stops } = this.state;
    return this.isCube ? turned(scene, yaw, pitch, stops) : scene;
  }

  async draw() {
    const uploaded = await this.upload;
    if (this.hasEnded) return;
    const { sampler } = this.state;
    this.device.draw(uploaded, this.scene, sampler, this.canvas);
    this.canvas.setAttribute("aria-label", `${this.state.scene.name} with ${this.texels.facts.name}, ${samplerText(sampler)}${this.isCube ? "; drag or use the arrow keys to turn" : ""}`);
    this.text.textContent = samplerText(sampler);
    this.note.textContent = this.remarks(uploaded).join(" ");
    this.drawUsual(uploaded);
  }

  remarks(uploaded) {
    const { facts } = this.texels;
    const { sampler } = this.state;
    return [
      `Drawn by WebGL 2${facts.is_block ? (uploaded.isBlocks ? `, from the blocks of ${facts.format}` : `, from decoded texels: this browser does not take ${facts.format}`) : ""}.`,
      uploaded.first > 0 && `Levels before ${uploaded.first} are not in the page: near surfaces are softer than they would be.`,
      sampler.wrap.slice(0, 2).includes("clamp-to-border") && "WebGL has no border: the edge is shown in its place.",
      sampler.aniso > this.device.maxAnisotropy && `This browser's anisotropy goes up to ${this.device.maxAnisotropy}.`,
    ].filter(Boolean);
  }

  /** These change with the scene and the wrap alone. */
  drawUsual(uploaded) {
    const shown = JSON.stringify([this.scene.numbers, this.state.sampler.wrap, this.state.place]);
    if (shown === this.shownUsual) return;
    this.shownUsual = shown;
    const samplers = this.texels.drawings.usual.map(({ sampler }) => ({ ...sampler, wrap: this.state.sampler.wrap }));
    if (this.usual.childElementCount === 0)
      this.usual.append(...samplers.map((sampler) => element("figure", { class: "live" }, element("canvas", { role: "img", "aria-label": samplerText(sampler) }), element("figcaption", {}, samplerText(sampler)))));
    samplers.forEach((sampler, i) => this.device.draw(uploaded, this.scene, sampler, this.usual.children[i].firstChild));
  }

  set(change) {
    change(this.state.sampler);
    this.show();
  }

  controls() {
    const { facts } = this.texels;
    const { sampler } = this.state;
    const filter = (label, member, list) => select(label, list, sampler[member], (value) => this.set((s) => (s[member] = value)));
    const wrap = (label, axis) => select(label, wrapNames, sampler.wrap[axis], (value) => this.set((s) => (s.wrap[axis] = value)));
    const filters = [["nearest"], ["linear"]];
    const lastLevel = facts.levels.length - 1;
    const angle = (label, member, range) => slider(label, { ...range, value: 0 }, (value) => `${value}\u00b0`, (value) => this.change(member, value));
    return element("div", { class: "controls" },
      select("Scene", facts.scenes.map(({ name }, i) => [i, name]), this.first, (value) => this.change("scene", facts.scenes[value])),
      partSlider(facts, (place) => this.choose(place)),
      filter("mag", "mag", filters), filter("min", "min", filters), filter("mip", "mip", [["none"], ["nearest"], ["linear"]]),
      !this.isCube && wrap("wrap u", 0), !this.isCube && wrap("wrap v", 1),
      select("anisotropy", [1, 2, 4, 8, 16].map((value) => [value]), sampler.aniso, (value) => this.set((s) => (s.aniso = Number(value)))),
      number("lod from", { min: 0, max: lastLevel, step: 0.5, value: sampler.lod[0] }, (value) => this.set((s) => (s.lod[0] = value))),
      number("to", { min: 0, max: 1000, step: 0.5, value: Math.min(sampler.lod[1], 1000) }, (value) => this.set((s) => (s.lod[1] = value))),
      number("bias", { min: -8, max: 8, step: 0.25, value: sampler.bias }, (value) => this.set((s) => (s.bias = value))),
      this.isCube && angle("yaw", "yaw", { min: 0, max: 360 }), this.isCube && angle("pitch", "pitch", { min: -90, max: 90 }),
      this.isCube && stopsSlider(facts, (value) => this.change("stops", value)));
  }

  change(member, value) {
    this.state[member] = value;
    this.show();
  }

  async choose(place) {
    this.state.place = place;
    const before = await this.upload;
    this.upload = this.device.upload(this.texels, place);
    this.show();
    this.device.free(before);
  }
}

/** What stands in the place of the live view where there is no WebGL 2. */
function drawnPanels({ drawings, facts }) {
  const picture = (text, about) => element("img", { alt: about, src: `data:image/jpeg;base64,${text}` });
  return [
    panel("View", element("p", { class: "notice" }, "This browser has no WebGL 2: these pictures were drawn when the page was made."), element("div", { class: "usual" }, drawings.own.map(({ scene, picture: text }) => element("figure", { class: "live" }, picture(text, `${facts.name} as ${scene} with ${facts.sampler.text}`), element("figcaption", {}, scene))))),
    panel("Samplers side by side", element("div", { class: "usual" }, drawings.usual.map(({ sampler, picture: text }) => element("figure", { class: "live" }, picture(text, sampler.text), element("figcaption", {}, sampler.text))))),
  ];
}

const decibels = (level) => (level.stops !== undefined ? `${level.stops.toFixed(3)} stops` : level.psnr === null ? "the same" : `${level.psnr.toFixed(2)} dB`);

function comparisonPanel(texels) {
  const { facts } = texels;
  const state = { level: texels.first, mode: "wiper", share: 50, gain: 8, place: {}, stops: 0 };
  const before = element("canvas", { role: "img", "aria-label": `the source, ${facts.comparison.source}` });
  const after = element("canvas", { role: "img", "aria-label": `${facts.name}, compressed` });
  const stage = element("div", { class: "stage stacked" }, before, after);
  const wipe = () => (after.style.clipPath = state.mode === "wiper" ? `inset(0 0 0 ${state.share}%)` : "none");
  const show = coalesced(async () => {
    const isMap = state.mode === "difference";
    await paint(before, texels, state.level, state.place, async (place) => imageOf(await texels.surface(state.level, place, "source"), facts, "color", state.stops));
    await paint(after, texels, state.level, state.place, async (place) => {
      const surface = await texels.surface(state.level, place);
      return isMap ? differenceOf(await texels.surface(state.level, place, "source"), surface, facts, state.gain, state.stops) : imageOf(surface, facts, "color", state.stops);
    });
    for (const canvas of [before, after]) fit(canvas, stage.clientWidth || 512);
    before.hidden = state.mode === "compressed";
    wipe();
  });
  const change = (member, next = show) => (value) => {
    state[member] = value;
    next();
  };
  const wiper = slider("Wiper", { min: 0, max: 100, value: 50 }, (value) => `${value} % source`, change("share", wipe));
  const gain = select("Gain", [1, 2, 4, 8, 16, 32].map((value) => [value, `\u00d7 ${value}`]), 8, (value) => change("gain")(Number(value)));
  gain.hidden = true;
  const modes = select("Compare by", [["wiper", "wiper: source left"], ["difference", "map of differences"]], "wiper", (value) => {
    wiper.hidden = value !== "wiper";
    gain.hidden = value !== "difference";
    change("mode")(value);
  });
  show();
  return panel(`Compressed beside its source, ${facts.comparison.source}`,
    element("div", { class: "controls" }, modes, wiper, gain, levelSlider(texels, state.level, change("level")), partSlider(facts, change("place")), stopsSlider(facts, change("stops"))),
    stage,
    element("table", {}, element("thead", {}, element("tr", {}, ["Level", "Error (PSNR)", "Largest difference"].map((text) => element("th", { scope: "col", class: "number" }, text)))),
      element("tbody", {}, facts.comparison.levels.map((level) => element("tr", {}, [String(level.level), decibels(level), level.max.toFixed(level.stops === undefined ? 0 : 3)].map((text) => element("td", { class: "number" }, text)))))));
}

const madeText = ({ source, seconds }) => `${source === "built" ? "built" : `out of the ${source}`} in ${secondsText(seconds)}`;

function factList(facts) {
  const rows = [
    ["File", facts.file], ["Kind", facts.file_format], ["Role", facts.role], ["Format", facts.format], ["Size", sizeText(facts)], ["Levels", String(facts.levels.length)],
    ["Channels in use", String(facts.channels)], ["Alpha", facts.has_alpha ? facts.alpha : "opaque"], ["On the GPU", bytesText(facts.gpu_bytes)],
    ["File's bytes", facts.file_bytes > 0 ? bytesText(facts.file_bytes) : ""], ["Sampler", facts.sampler.text],
    ...(facts.build ? [["Made of", facts.build.inputs.join(", ")], ["Made", `${madeText(facts.build)}, ${facts.build.state}`]] : []),
  ].filter(([, text]) => text);
  return element("dl", {}, rows.flatMap(([name, text]) => [element("dt", {}, name), element("dd", {}, text)]));
}

/** The panels of a texture, and what ends them. */
function detail(index, facts, count, device) {
  const texels = new Texels(index, facts);
  const live = device ? new LivePanel(texels, device) : null;
  const [view, usual] = live ? live.elements : drawnPanels(texels);
  const step = (to, text) => to >= 0 && to < count && element("a", { href: `#texture-${to}` }, text);
  const panels = [
    element("div", { class: "pager" }, element("a", { href: "#" }, "All textures"), step(index - 1, "Previous"), step(index + 1, "Next"), element("span", { class: "quiet" }, `${index + 1} of ${count}`)),
    element("h2", { tabindex: "-1" }, facts.name),
    element("div", { class: "columns" }, picturePanel(texels), view),
    element("div", { class: "columns three" }, panel("Findings", findingList(facts.findings)), panel("Facts", factList(facts)), panel("Histogram", histogramPlot(facts.histogram))),
    texels.hasSource() && comparisonPanel(texels),
    usual,
  ].filter(Boolean);
  return { panels, end: () => live?.end() };
}
