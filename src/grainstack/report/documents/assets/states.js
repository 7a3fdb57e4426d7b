// @ts-check
// What a reader may change in a chart: which series are shown and, where it is laid out anew, their order, figures and
// form; kept in the address.

/**
 * @typedef {{ name: string, figures: Drawn[], state: State, series: { name: string }[] }} Changing
 * @typedef {{ figure: HTMLElement, chart: SVGSVGElement, facts: Facts, originals: Element[], slots?: SVGGElement[][],
 *   legend?: Element[], tips: Map<string, string>, note: SVGGElement | null }} Drawn
 */

const States = ((phrase, tell, hide) => {
  "use strict";

  const SVG = "http://www.w3.org/2000/svg";
  const PLOT = new Set(["bar", "value", "letter", "total", "part", "whisker", "halo", "grid", "tick", "break"]);
  const MARKER = "show=";

  /** @type {Map<string, Changing>} */
  const every = new Map();
  /** @type {Map<string, { get: () => string, set: ((text: string) => void)[] }>} */
  const others = new Map();

  /** Keeps the state of something else in the address. @param {string} name @param {() => string} get @param {(text: string) => void} set */
  const register = (name, get, set) => {
    const known = others.get(name);
    if (known) known.set.push(set);
    else others.set(name, { get, set: [set] });
  };

  /** What a mark is of, as one text. @param {Record<string, string>} key */
  const keyOf = (key) => ["panel", "category", "series"].map((part) => key[part] || "").join("\n");

  /** @param {Element} element */
  const keyOfElement = (element) => {
    const { panel = "", category = "", series = "" } = /** @type {SVGElement} */ (element).dataset;
    return [panel, category, series].join("\n");
  };

  /** @param {Changing} one @returns {State} */
  const initial = (one) => drawnState(one.figures[0].facts);

  /** The state a chart was drawn in. @param {Facts} facts @returns {State} */
  const drawnState = ({ form, of }) => ({ hidden: [], order: "", form, of });

  /** @param {Changing} one */
  const isInitial = (one) => JSON.stringify(one.state) === JSON.stringify(initial(one));

  /** Makes a figure with facts changeable. @param {HTMLElement} figure @param {HTMLElement} bar */
  const prepare = (figure, bar) => {
    const block = figure.querySelector("script.facts");
    const chart = /** @type {SVGSVGElement | null} */ (figure.querySelector("svg.chart"));
    if (!chart) return;
    const name = figure.dataset.name || "";
    const facts = block ? JSON.parse(block.textContent || "{}") : asDrawn(chart, every.get(name)?.series || seriesOf(chart));
    if (facts.kind === "tiles") return void openings?.prepare(figure, bar, facts, chart);
    if (!block && facts.series.length < 2) return;
    const made = drawn(figure, chart, facts, originals(chart), '[data-role="bar"]');
    const one = every.get(name) || { name, figures: [], state: drawnState(facts), series: facts.series };
    one.figures.push(made);
    every.set(name, one);
    prepareLegend(one, made);
    prepareTools(one, made, bar);
    if (block) for (const state of rehearsed(facts)) rehearse(() => void (gathered(made), group(made, cleared(Bars.draw(facts, state)))));
  };

  /** States that a reader may ask for next, one of each kind. @param {Facts} facts @returns {State[]} */
  const rehearsed = (facts) => {
    const now = drawnState(facts);
    return [
      { ...now, hidden: facts.series.length > 1 ? [0] : [] },
      ...facts.forms.filter((form) => form !== now.form).map((form) => ({ ...now, form })),
      ...facts.wholes.map((of) => ({ ...now, of })),
      ...(facts.ordered ? [{ ...now, order: "value" }] : []),
    ];
  };

  /** Does something once while nobody waits, so that it is fast when somebody does. @param {() => void} act */
  const rehearse = (act) => {
    if (typeof requestIdleCallback === "function") requestIdleCallback(act);
  };

  /** The series that a legend names. @param {SVGSVGElement} chart */
  const seriesOf = (chart) => {
    /** @type {Map<string, { name: string, key: Record<string, string> }>} */
    const found = new Map();
    for (const name of /** @type {NodeListOf<SVGElement>} */ (chart.querySelectorAll('text[data-role="legend"]'))) {
      const { category = "", series = "" } = name.dataset;
      if (!category && !series) continue;
      const lines = [found.get(keyOfElement(name))?.name || "", name.textContent || ""].filter(Boolean);
      found.set(keyOfElement(name), { name: lines.join(" "), key: series ? { series } : { category } });
    }
    return [...found.values()];
  };

  /** What is to be known of a chart that is not laid out anew: marks are hidden, and all others stay where they are.
   * @param {SVGSVGElement} chart @param {{ name: string, key: Record<string, string> }[]} series */
  const asDrawn = (chart, series) => {
    const tick = Number(chart.querySelector('[data-role="legend"]')?.getAttribute("font-size")) || 8;
    return { series, stays: true, form: "", of: "", forms: [], wholes: [], ordered: false, style: { tick } };
  };

  /** Hides the marks of series, with the patterns on them. @param {Drawn} drawn @param {number[]} hidden */
  const hideMarks = ({ chart, facts }, hidden) => {
    const gone = new Set(hidden.map((place) => JSON.stringify(facts.series[place].key)));
    for (const mark of /** @type {HTMLCollectionOf<SVGElement>} */ (chart.children)) {
      const { role = "", category = "", series = "" } = mark.dataset;
      if (!role || role.startsWith("legend")) continue;
      const before = mark.previousElementSibling?.getAttribute("visibility") === "hidden";
      const joins = role === "stem" && hidden.length > 0; // dots that may be gone
      const off = joins || gone.has(JSON.stringify({ series })) || gone.has(JSON.stringify({ category })) || (role === "pattern" && before);
      if (off) mark.setAttribute("visibility", "hidden");
      else mark.removeAttribute("visibility");
    }
  };

  /** A figure as it was drawn. @param {HTMLElement} figure @param {SVGSVGElement} chart @param {any} facts @param {Element[]} marks @param {string} telling */
  const drawn = (figure, chart, facts, marks, telling) => {
    const tips = new Map();
    for (const mark of chart.querySelectorAll(telling)) tips.set(keyOfElement(mark), /** @type {SVGElement} */ (mark).dataset.tip || "");
    return { figure, chart, facts, originals: marks, tips, note: null };
  };

  /** The marks that a new drawing takes the place of. @param {SVGSVGElement} chart */
  const originals = (chart) =>
    [...chart.children].filter((element) => {
      const { role = "" } = /** @type {SVGElement} */ (element).dataset;
      if (role === "pattern") return element.previousElementSibling?.getAttribute("data-role") === "bar";
      if (role === "ground") return keyOfElement(element) !== "\n\n";
      return PLOT.has(role);
    });

  /** Entries of the legend hide and isolate their series. @param {Changing} one @param {Drawn} drawn */
  const prepareLegend = (one, drawn) => {
    if (drawn.facts.series.length < 2) return;
    drawn.chart.setAttribute("role", "group"); // as what is in it can be operated
    drawn.facts.series.forEach((series, place) => {
      const marks = legendOf(drawn, place);
      for (const mark of marks) {
        mark.classList.add("choice");
        mark.addEventListener("click", () => toggle(one, place));
        mark.addEventListener("dblclick", () => isolate(one, place));
      }
      const name = marks.find((mark) => mark.tagName === "text");
      if (!name) return;
      name.setAttribute("tabindex", "0");
      name.setAttribute("role", "switch");
      name.setAttribute("aria-checked", "true");
      name.setAttribute("aria-label", series.name);
      name.addEventListener("keydown", (event) => {
        const { key, shiftKey } = /** @type {KeyboardEvent} */ (event);
        if (key === "Enter" && shiftKey) isolate(one, place);
        else if (key === "Enter" || key === " ") toggle(one, place);
        else if (key === "Escape") change(one, { hidden: [] });
        else return;
        event.preventDefault();
        event.stopPropagation();
      });
    });
  };

  /** The swatch and the name of a series. @param {Drawn} drawn @param {number} place */
  const legendOf = (drawn, place) => {
    const wanted = keyOf(drawn.facts.series[place].key);
    drawn.legend ??= [...drawn.chart.querySelectorAll('[data-role="legend"],[data-role="legend-swatch"]')];
    return /** @type {SVGElement[]} */ (drawn.legend).filter((mark) => keyOfElement(mark) === wanted);
  };

  /** @param {Changing} one @param {number} place */
  const toggle = (one, place) => {
    const hidden = new Set(one.state.hidden);
    if (!hidden.delete(place)) hidden.add(place);
    change(one, { hidden: hidden.size === one.series.length ? [] : [...hidden].sort((a, b) => a - b) });
  };

  /** @param {Changing} one @param {number} place */
  const isolate = (one, place) => {
    const others = one.series.map((_, other) => other).filter((other) => other !== place);
    const alone = JSON.stringify(one.state.hidden) === JSON.stringify(others);
    change(one, { hidden: alone ? [] : others });
  };

  /** Order and form of the bars, and the way back. @param {Changing} one @param {Drawn} drawn @param {HTMLElement} bar */
  const prepareTools = (one, drawn, bar) => {
    const { facts } = drawn;
    /** @type {[string, string][]} */
    const orders = [["", phrase("As drawn")], ["value", phrase("Largest first")], ["name", phrase("By name")]];
    if (facts.natural) orders.push(["natural", facts.natural]);
    if (facts.series.length > 1) facts.series.forEach(({ name }, place) => orders.push([`series:${place}`, phrase("By {series}").replace("{series}", name)]));
    const chosen = [];
    if (facts.ordered) chosen.push(select(phrase("Order"), orders, (order) => change(one, { order }), "order"));
    if (facts.wholes.length) {
      /** @type {Record<string, string>} */
      const wholes = { "": phrase("As drawn"), category: phrase("Percent of each bar"), all: phrase("Percent of all") };
      const offered = ["", ...facts.wholes].map((of) => /** @type {[string, string]} */ ([of, wholes[of]]));
      chosen.push(select(phrase("Figures"), offered, (of) => change(one, { of }), "of"));
    }
    if (facts.forms.length > 1) {
      /** @type {Record<string, string>} */
      const forms = { stacked: phrase("Stacked"), grouped: phrase("Side by side") };
      const offered = facts.forms.map((form) => /** @type {[string, string]} */ ([form, forms[form]]));
      chosen.push(select(phrase("Form"), offered, (form) => change(one, { form }), "form"));
    }
    const reset = document.createElement("button");
    reset.type = "button";
    reset.textContent = phrase("Reset");
    reset.className = "reset";
    reset.hidden = true;
    reset.addEventListener("click", () => change(one, initial(one)));
    bar.prepend(...chosen, reset);
    drawn.chart.addEventListener("keydown", (event) => {
      if (/** @type {KeyboardEvent} */ (event).key === "Escape" && !isInitial(one)) change(one, initial(one));
    });
  };

  /** A choice with its name. @param {string} name @param {[string, string][]} options @param {(value: string) => void} act @param {string} part */
  const select = (name, options, act, part) => {
    const label = document.createElement("label");
    const field = document.createElement("select");
    field.dataset.part = part;
    for (const [value, text] of options) field.append(new Option(text, value));
    field.addEventListener("change", () => act(field.value));
    label.append(`${name} `, field);
    return label;
  };

  /** Shows a chart in another state, and says so. @param {Changing} one @param {Partial<State>} wanted */
  const change = (one, wanted) => {
    one.state = { ...one.state, ...wanted };
    for (const drawn of one.figures) {
      if (drawn.figure.getBoundingClientRect().width) redraw(one, drawn);
      else setTimeout(() => redraw(one, drawn)); // nobody sees it now: a phone's, or that of a desk
    }
    keep();
    const left = one.state.hidden.map((place) => one.series[place].name);
    tell(isInitial(one) ? phrase("As drawn") : noteOf(one) || left.join(", ") || phrase("Drawn anew."));
  };

  /** What has to be known of a changed drawing. @param {Changing} one */
  const noteOf = (one) => {
    const { facts } = one.figures[0];
    const parts = [];
    const left = one.state.hidden.map((place) => one.series[place].name).join(", ");
    if (facts.stays) return left && phrase("Left out: {names}; the other figures stay as they are.").replace("{names}", left);
    if (Bars.recounted(facts, one.state)) {
      const whole = one.state.of === "all" ? phrase("Shares of all.") : phrase("Shares of each bar.");
      parts.push(left ? phrase("Shares of what is shown; left out: {names}.").replace("{names}", left) : whole);
      if (left) parts.push(phrase("With these: {base}.").replace("{base}", facts.base));
      if (facts.cells.some((cell) => cell.limits)) parts.push(phrase("Limits are those of the whole and left out here."));
    } else if (left) parts.push(phrase("Left out: {names}.").replace("{names}", left));
    return parts.join(" ");
  };

  /** @param {Changing} one @param {Drawn} drawn */
  const redraw = (one, drawn) => {
    const { facts } = drawn;
    const { state } = one;
    const anew = !isInitial(one);
    if (facts.stays) {
      hide();
      hideMarks(drawn, state.hidden);
    } else {
      replace(drawn, anew ? cleared(Bars.draw(facts, state)) : null);
      moveNames(drawn, state);
      renameAxis(drawn, Bars.recounted(facts, state) && !facts.share ? state.of : "");
    }
    facts.series.forEach((_, place) => {
      const hidden = state.hidden.includes(place);
      for (const mark of legendOf(drawn, place)) {
        mark.classList.toggle("off", hidden);
        if (mark.hasAttribute("aria-checked")) mark.setAttribute("aria-checked", String(!hidden));
      }
    });
    drawn.figure.querySelectorAll("select").forEach((field) => {
      field.value = String(state[/** @type {keyof State} */ (field.dataset.part)]);
    });
    const reset = /** @type {HTMLElement | null} */ (drawn.figure.querySelector(".reset"));
    if (reset) reset.hidden = !anew;
    writeNote(drawn, anew ? noteOf(one) : "");
  };

  /** Puts marks in the place of those that were drawn; nothing puts these back. @param {Drawn} drawn @param {Mark[] | null} marks */
  const replace = (drawn, marks) => {
    hide();
    gathered(drawn).forEach(([slot, before], place) => {
      if (!marks) slot.replaceChildren(before);
      else if (place) slot.replaceChildren();
      else slot.replaceChildren(group(drawn, marks));
    });
  };

  /** Groups that marks which follow one another are put in as they were drawn, so that they go and come back at once. @param {Drawn} drawn */
  const gathered = (drawn) => {
    if (drawn.slots) return drawn.slots;
    drawn.slots = [];
    const left = new Set(drawn.originals);
    for (const first of left) {
      const [slot, before] = [group(drawn, []), group(drawn, [])];
      first.before(slot);
      slot.append(before);
      for (let mark = /** @type {Element | null} */ (first); mark && left.delete(mark); mark = slot.nextElementSibling) before.append(mark);
      drawn.slots.push([slot, before]);
    }
    return drawn.slots;
  };

  /** Marks as a group of elements. @param {Drawn} drawn @param {Mark[]} marks */
  const group = (drawn, marks) => {
    const made = /** @type {SVGGElement} */ (document.createElementNS(SVG, "g"));
    const parts = marks.filter((mark) => mark.role === "part");
    for (const mark of marks) {
      if (mark.role !== "part") made.append(...elements(drawn, mark));
      else if (mark === parts[0]) made.append(line(parts));
    }
    return made;
  };

  /** Lines of one kind, which tell nothing each, as one element. @param {Mark[]} lines */
  const line = (lines) => {
    const [{ role, stroke, thickness }] = lines;
    const d = lines.map(({ x1, y1, x2, y2 }) => `M${[x1, y1, x2, y2].map((at) => Math.round(at * 100) / 100).join(" ")}`).join("");
    return element("path", { stroke, "stroke-width": thickness, "data-role": role }, { d });
  };

  /** Marks without texts that would stand on others or on whiskers, the less important ones first. @param {Mark[]} marks */
  const cleared = (marks) => {
    const rank = ["tick", "total", "letter", "value"];
    const taken = marks
      .filter((mark) => mark.role === "whisker")
      .map((mark) => {
        const half = mark.thickness / 2;
        const [left, right] = [Math.min(mark.x1, mark.x2), Math.max(mark.x1, mark.x2)];
        const [top, bottom] = [Math.min(mark.y1, mark.y2), Math.max(mark.y1, mark.y2)];
        return [left - half, top - half, right + half, bottom + half];
      });
    const texts = marks.filter((mark) => mark.tag === "text" && mark.content);
    texts.sort((one, other) => rank.indexOf(one.role) - rank.indexOf(other.role));
    /** @type {Set<Mark>} */
    const kept = new Set();
    /** @type {number[][]} */
    const lost = [];
    for (const text of texts) {
      const box = Texts.boxOf(text);
      const meets = taken.some((other) => Math.min(box[2], other[2]) - Math.max(box[0], other[0]) > 0.01 && Math.min(box[3], other[3]) - Math.max(box[1], other[1]) > 0.01);
      if (meets) lost.push(box);
      else {
        kept.add(text);
        taken.push(box);
      }
    }
    const holds = (/** @type {Mark} */ patch, /** @type {number[]} */ box) =>
      patch.x <= box[0] && patch.y <= box[1] && patch.x + patch.width >= box[2] && patch.y + patch.height >= box[3];
    return marks.filter((mark) => {
      if (mark.tag === "text") return kept.has(mark);
      return mark.role !== "ground" || !lost.some((box) => holds(mark, box));
    });
  };

  /** @param {Element} made @param {Record<string, any>} attributes */
  const set = (made, attributes) => {
    for (const name in attributes) {
      const value = attributes[name];
      if (value === undefined || value === "") continue;
      made.setAttribute(name, typeof value === "number" ? String(Math.round(value * 100) / 100) : value);
    }
    return made;
  };

  /** @type {Map<string, Element>} */
  const models = new Map();

  /** An element. Those that look alike are copies of one, which takes less than half the time. @param {string} tag @param {Record<string, any>} look @param {Record<string, any>} [place] */
  const element = (tag, look, place = {}) => {
    const key = `${tag} ${Object.entries(look).join()}`;
    const model = models.get(key) || set(document.createElementNS(SVG, tag), look);
    models.set(key, model);
    return set(/** @type {Element} */ (model.cloneNode()), place);
  };

  /** A mark as elements of the drawing. @param {Drawn} drawn @param {Mark} mark */
  const elements = (drawn, mark) => {
    const key = mark.cell ? mark.cell.key : mark.key || {};
    const role = { "data-role": mark.role };
    const data = { "data-panel": key.panel, "data-category": key.category, "data-series": key.series };
    if (mark.tag === "line") {
      const { x1, y1, x2, y2, stroke, thickness } = mark;
      return [element("line", { stroke, "stroke-width": thickness, ...role }, { x1, y1, x2, y2, ...data })];
    }
    if (mark.tag === "text") {
      const { x, y, content, size, width, anchor, fill, weight } = mark;
      const look = { "font-size": size, "text-anchor": anchor === "start" ? undefined : anchor, "font-weight": weight === 600 ? 600 : undefined, fill, ...role };
      const text = element("text", look, { x, y, textLength: width, ...data });
      text.textContent = content;
      return [text];
    }
    const { x, y, width, height, cell } = mark;
    const place = { x, y, width, height };
    if (!cell) return [element("rect", { fill: mark.fill, ...role }, { ...place, ...data, "data-tip": mark.role === "frame" ? drawn.tips.get(keyOf(key)) : "" })];
    const edge = cell.outline ? { stroke: cell.outline, "stroke-width": drawn.facts.style.outline } : {};
    const solid = drawn.facts.opacity < 1 ? { "fill-opacity": drawn.facts.opacity } : {};
    const tip = drawn.tips.get(keyOf(key));
    const shapes = [element("rect", { ...edge, ...solid, fill: cell.fill, ...role }, { ...place, ...data, "data-tip": tip })];
    if (cell.pattern && Math.min(width, height) >= drawn.facts.patterned) {
      const prefix = (drawn.chart.querySelector("title")?.id || "title").slice(0, -"title".length);
      shapes.push(element("rect", { fill: `url(#${prefix}${cell.pattern})`, "data-role": "pattern" }, place));
    }
    return shapes;
  };

  /** Moves the names of categories, and their bases, to where these stand. @param {Drawn} drawn @param {State} state */
  const moveNames = (drawn, state) => {
    const { facts, chart } = drawn;
    if (!facts.ordered) return;
    const frame = facts.frames[0];
    const slot = (facts.horizontal ? frame[3] - frame[1] : frame[2] - frame[0]) / facts.span;
    const order = Bars.ordered(facts, state);
    /** @type {Map<string, number>} */
    const shifts = new Map();
    order.forEach((place, now) => {
      const total = facts.totals.find(({ at }) => at[0] === 0 && at[1] === place);
      if (total?.key.category) shifts.set(total.key.category, (facts.places[now] - facts.places[place]) * slot);
    });
    for (const name of /** @type {NodeListOf<SVGElement>} */ (chart.querySelectorAll('[data-role="category"],[data-role="base"]'))) {
      const shift = shifts.get(name.dataset.category || "") || 0;
      name.dataset.own ??= name.getAttribute("transform") || "";
      const moved = shift ? `translate(${facts.horizontal ? `0 ${shift}` : `${shift} 0`}) ` : "";
      if (moved || name.dataset.own) name.setAttribute("transform", moved + name.dataset.own);
      else name.removeAttribute("transform");
    }
  };

  /** Names shares over an axis that was one of counts. @param {Drawn} drawn @param {string} of Nothing where it is one. */
  const renameAxis = (drawn, of) => {
    const title = /** @type {SVGElement | null} */ (drawn.chart.querySelector('[data-role="value-title"]'));
    if (!title) return;
    const words = [...title.childNodes].find((node) => node.nodeType === Node.TEXT_NODE);
    if (!words) return;
    title.dataset.own ??= words.textContent || "";
    title.dataset.long ??= title.getAttribute("textLength") || "";
    words.textContent = of ? (of === "all" ? phrase("Share of all (%)") : phrase("Share of each bar (%)")) : title.dataset.own;
    if (of) title.removeAttribute("textLength");
    else title.setAttribute("textLength", title.dataset.long);
  };

  /** Writes a note under the drawing, which grows by its lines. @param {Drawn} drawn @param {string} text */
  const writeNote = (drawn, text) => {
    const { chart, facts } = drawn;
    drawn.note?.remove();
    drawn.note = null;
    chart.dataset.box ??= chart.getAttribute("viewBox") || "";
    const [, , width, height] = chart.dataset.box.split(" ").map(Number);
    const size = facts.style.tick;
    const room = Math.max(Math.floor((width - 40) / (size * 0.5)), 20);
    const lines = text ? text.match(new RegExp(`.{1,${room}}(?:\\s|$)|\\S+`, "g")) || [] : [];
    chart.setAttribute("viewBox", `0 0 ${width} ${height + lines.length * size * 1.4}`);
    const paper = chart.querySelector(":scope > rect:not([data-role])");
    paper?.setAttribute("height", String(height + lines.length * size * 1.4));
    if (!lines.length) return;
    drawn.note = /** @type {SVGGElement} */ (element("g", { "data-role": "footnote" }));
    lines.forEach((line, number) => {
      const written = element("text", { x: 20, y: height + (number + 0.4) * size * 1.4, "font-size": size, fill: facts.ink?.muted || "#5c6770" });
      written.textContent = line.trim();
      drawn.note?.append(written);
    });
    chart.append(drawn.note);
  };

  /** Keeps all states in the address, so that a link shows the same. */
  const keep = () => {
    const texts = [...every.values()].filter((one) => !isInitial(one)).map((one) => {
      const { hidden, order, form, of } = one.state;
      return [encodeURIComponent(one.name), hidden.join("."), encodeURIComponent(order), form, of].join("~");
    });
    for (const [name, { get }] of others) if (get()) texts.push(`${encodeURIComponent(name)}~${encodeURIComponent(get())}`);
    const address = texts.length ? `#${MARKER}${texts.join(";")}` : location.pathname + location.search;
    try {
      history.replaceState(null, "", address);
    } catch {
      if (texts.length) location.hash = address;
    }
  };

  /** Shows what the address says. */
  const restore = () => {
    if (!location.hash.startsWith(`#${MARKER}`)) return;
    for (const text of location.hash.slice(MARKER.length + 1).split(";")) {
      const [name, hidden = "", order = "", form = "", of = ""] = text.split("~");
      others.get(safely(name))?.set.forEach((set) => set(safely(hidden)));
      const one = every.get(safely(name));
      if (!one) continue;
      const { facts } = one.figures[0];
      const places = hidden.split(".").filter(Boolean).map(Number).filter((place) => place in one.series);
      const named = safely(order);
      const known = ["value", "name", ...(facts.natural ? ["natural"] : [])].includes(named) || (/^series:\d+$/.test(named) && Number(named.slice(7)) in one.series);
      one.state = {
        hidden: places.length < one.series.length ? [...new Set(places)].sort((a, b) => a - b) : [],
        order: known && facts.ordered ? named : "",
        form: facts.forms.includes(form) ? form : facts.form,
        of: facts.wholes.includes(of) ? of : facts.of,
      };
      for (const drawn of one.figures) redraw(one, drawn);
    }
  };

  /** @param {string} text */
  const safely = (text) => {
    try {
      return decodeURIComponent(text);
    } catch {
      return "";
    }
  };

  const shared = { drawn, replace, writeNote, register, keep };
  const openings = typeof Openings === "undefined" ? null : Openings(phrase, tell, shared);
  return { prepare, restore, register, keep };
});
