// @ts-check
// What a reader may change in a chart: series hidden, bars moved into another order, another drawing put in its place.
// Every drawing was made by the program and waits in the page, packed; nothing here works out a length or a label.

/**
 * @typedef {{ hidden: number[], order: string, form: string, of: string, open: string }} State
 * @typedef {{ form: string, of: string, horizontal: boolean, stacked: boolean, middles: Record<string, number>,
 *   zeros: Record<string, number>, orders: Record<string, string[]>, natural: string }} Movable
 * @typedef {{ name: string, key: Record<string, string> }} Series
 * @typedef {{ box: string, marks: string, movable: Movable | null }} View
 * @typedef {{ figure: HTMLElement, chart: SVGSVGElement, packed: Map<string, string>, views: Map<string, View>, now: string,
 *   parents: Record<string, string> | null, note: SVGGElement | null, way: HTMLElement | null,
 *   buttons: { at: (place: number) => void, renew: () => void } | null }} Drawn
 * @typedef {{ name: string, figures: Drawn[], state: State, first: State, series: Series[] }} Changing
 */

const Views = (phrase, tell, hide, dress) => {
  "use strict";

  const SVG = "http://www.w3.org/2000/svg";
  const MARKER = "show=";
  const DURATION = 350; // thousandths of a second: the eye can follow, and nobody waits
  const TILES = 'rect[data-role="frame"],rect[data-role="tile"]';
  const EPSILON = 0.02; // points: what was rounded in the drawing
  const PARTS = ["panel", "category", "series"];

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

  /** @param {Element} mark */
  const dataOf = (mark) => /** @type {SVGElement} */ (mark).dataset;

  /** What a mark is of, as one text. @param {Record<string, string | undefined>} key */
  const keyOf = (key) => PARTS.map((part) => key[part] || "").join("\n");

  /** The view of a state: an opened parent, or a form of the bars. @param {State} state */
  const viewOf = ({ form, of, open }) => open || `${form}~${of}`;

  /** @param {Changing} one */
  const isFirst = (one) => JSON.stringify(one.state) === JSON.stringify(one.first);

  /** Makes a figure changeable. @param {HTMLElement} figure @param {HTMLElement} bar */
  const prepare = (figure, bar) => {
    const chart = /** @type {SVGSVGElement | null} */ (figure.querySelector("svg.chart"));
    if (!chart) return;
    const name = figure.dataset.name || "";
    const { movable = null, parents = null } = JSON.parse(figure.querySelector("script.facts")?.textContent || "{}");
    const packed = new Map([...figure.querySelectorAll("script.view")].map((one) => [dataOf(one).view || "", one.textContent || ""]));
    const first = { hidden: [], order: "", form: movable?.form || "", of: movable?.of || "", open: "" };
    const series = every.get(name)?.series || seriesOf(chart);
    if (series.length < 2 && !packed.size && !Object.keys(movable?.orders || {}).length) return;
    const view = { box: chart.getAttribute("viewBox") || "", marks: chart.innerHTML, movable };
    const drawn = { figure, chart, packed, views: new Map([[viewOf(first), view]]), now: viewOf(first), parents, note: null, way: null, buttons: null };
    const one = every.get(name) || { name, figures: [], state: first, first, series };
    one.figures.push(drawn);
    every.set(name, one);
    if (one.series.length > 1) drawn.buttons = legendButtons(one, drawn);
    prepareLegend(one, drawn);
    prepareTools(one, drawn, bar);
    if (parents) prepareTiles(one, drawn, bar);
  };

  /** The series that a legend names. @param {SVGSVGElement} chart */
  const seriesOf = (chart) => {
    /** @type {Map<string, Series>} */
    const found = new Map();
    for (const name of chart.querySelectorAll('text[data-role="legend"]')) {
      const { category = "", series = "" } = dataOf(name);
      if (!category && !series) continue;
      const key = series ? { series } : { category };
      found.set(keyOf(key), { name: [found.get(keyOf(key))?.name, name.textContent].filter(Boolean).join(" "), key });
    }
    return [...found.values()];
  };

  /** Entries of the legend hide and isolate their series. @param {Changing} one @param {Drawn} drawn */
  const prepareLegend = (one, drawn) => {
    if (one.series.length < 2) return;
    drawn.chart.setAttribute("role", "group"); // as what is in it can be operated
    one.series.forEach((series, place) => {
      const marks = legendOf(drawn, series);
      for (const mark of marks) {
        mark.classList.add("choice");
        mark.addEventListener("click", () => toggle(one, place));
        mark.addEventListener("dblclick", () => isolate(one, place));
        mark.addEventListener("pointerenter", () => drawn.buttons?.at(place));
      }
      const name = marks.find((mark) => mark.tagName === "text");
      if (!name) return;
      for (const [key, value] of Object.entries({ tabindex: "0", role: "switch", "aria-checked": "true", "aria-label": series.name, "aria-keyshortcuts": "Shift+Enter Escape" })) name.setAttribute(key, value);
      name.addEventListener("focus", () => drawn.buttons?.at(place));
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

  /** Two buttons at an entry of the legend: its series alone, and all of them again. @param {Changing} one @param {Drawn} drawn */
  const legendButtons = (one, drawn) => {
    const box = document.createElement("div");
    box.className = "legend-buttons";
    box.hidden = true;
    let now = -1;
    const [only, all] = [phrase("Only this"), phrase("All")].map((text) => {
      const made = document.createElement("button");
      Object.assign(made, { type: "button", textContent: text, tabIndex: -1 }); // by keys Shift+Enter and Escape do it
      box.append(made);
      return made;
    });
    only.addEventListener("click", () => isolate(one, now));
    all.addEventListener("click", () => change(one, { hidden: [] }));
    const isAlone = () => one.state.hidden.length === one.series.length - 1 && !one.state.hidden.includes(now);
    const renew = () => {
      only.hidden = isAlone();
      all.hidden = !one.state.hidden.length;
      box.setAttribute("aria-label", one.series[now]?.name || "");
    };
    const at = (/** @type {number} */ place) => {
      const name = legendOf(drawn, one.series[place]).at(-1);
      if (!name) return;
      now = place;
      renew();
      box.hidden = false;
      const [entry, around] = [name.getBoundingClientRect(), drawn.figure.getBoundingClientRect()];
      box.style.left = `${Math.max(0, Math.min(entry.left - around.left, around.width - box.offsetWidth))}px`;
      box.style.top = `${entry.bottom - around.top}px`;
    };
    drawn.figure.addEventListener("pointerleave", () => (box.hidden = !one.state.hidden.length));
    drawn.figure.append(box);
    return { at, renew };
  };

  /** The swatch and the name of a series. @param {Drawn} drawn @param {Series} series */
  const legendOf = (drawn, series) =>
    [...drawn.chart.querySelectorAll('[data-role="legend"],[data-role="legend-swatch"]')].filter((mark) => keyOf(dataOf(mark)) === keyOf(series.key));

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
    const movable = drawn.views.get(drawn.now)?.movable;
    const chosen = [];
    if (movable && Object.keys(movable.orders).length) {
      /** @type {[string, string][]} */
      const orders = [["", phrase("As drawn")], ["value", phrase("Largest first")], ["name", phrase("By name")]];
      if (movable.natural) orders.push(["natural", movable.natural]);
      if (one.series.length > 1) one.series.forEach(({ name }, place) => orders.push([`series:${place}`, phrase("By {series}").replace("{series}", name)]));
      chosen.push(select(phrase("Order"), orders.filter(([order]) => order in movable.orders), (order) => change(one, { order }), "order"));
    }
    const known = [viewOf(one.first), ...drawn.packed.keys()].map((view) => view.split("~"));
    const offered = (/** @type {number} */ part, /** @type {Record<string, string>} */ words) =>
      /** @type {[string, string][]} */ ([...new Set(known.map((view) => view[part]))].filter((value) => value in words).map((value) => [value, words[value]]));
    if (movable && known.length > 1) {
      const wholes = offered(1, { "": phrase("As drawn"), category: phrase("Percent of each bar"), all: phrase("Percent of all") });
      if (wholes.length > 1) chosen.push(select(phrase("Figures"), wholes, (of) => change(one, { of }), "of"));
      const forms = offered(0, { stacked: phrase("Stacked"), grouped: phrase("Side by side") });
      if (forms.length > 1) chosen.push(select(phrase("Form"), forms, (form) => change(one, { form }), "form"));
    }
    const reset = document.createElement("button");
    Object.assign(reset, { type: "button", textContent: phrase("Reset"), className: "reset", hidden: true });
    reset.addEventListener("click", () => change(one, one.first));
    bar.prepend(...chosen, reset);
    drawn.chart.addEventListener("keydown", (event) => {
      if (/** @type {KeyboardEvent} */ (event).key === "Escape" && !one.state.open && !isFirst(one)) change(one, one.first);
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

  /** Tiles open the parent they lie in, one level deeper; the title of the opened one leads back. @param {Changing} one @param {Drawn} drawn @param {HTMLElement} bar */
  const prepareTiles = (one, drawn, bar) => {
    const { chart } = drawn;
    drawn.way = document.createElement("nav");
    drawn.way.className = "way";
    drawn.way.setAttribute("aria-label", phrase("Path"));
    drawn.way.hidden = true;
    bar.prepend(drawn.way);
    const above = () => one.state.open.split("/").slice(0, -1).join("/");
    const enter = (/** @type {Element | null} */ mark) => {
      const key = mark && dataOf(mark).category;
      if (!key) return;
      const next = key.split("/").slice(0, one.state.open ? one.state.open.split("/").length + 1 : 1).join("/");
      if (key === one.state.open) change(one, { open: above() });
      else if (drawn.packed.has(next)) change(one, { open: next });
    };
    chart.addEventListener("click", (event) => enter(/** @type {Element} */ (event.target).closest(`${TILES},[data-role="tile"],[data-role="value"]`)));
    chart.addEventListener("keydown", (event) => {
      const { key } = /** @type {KeyboardEvent} */ (event);
      if (key === "Enter") enter(chart.querySelector(".pointed"));
      else if ((key === "Escape" || key === "Backspace") && one.state.open) change(one, { open: above() });
      else return;
      event.preventDefault();
    });
    chart.classList.add("opens");
  };

  /** The way from everything to the opened parent. @param {Changing} one @param {Drawn} drawn */
  const writeWay = (one, drawn) => {
    if (!drawn.way) return;
    drawn.way.hidden = !one.state.open;
    const keys = pathOf(one);
    drawn.way.replaceChildren(
      ...keys.map((key, place) => {
        const step = document.createElement("button");
        step.type = "button";
        step.textContent = (key && drawn.parents?.[key]) || phrase("All");
        if (place === keys.length - 1) step.setAttribute("aria-current", "true");
        step.addEventListener("click", () => change(one, { open: key }));
        return step;
      }),
    );
  };

  /** The codes from everything to the opened parent. @param {Changing} one */
  const pathOf = (one) => ["", ...one.state.open.split("/").filter(Boolean).map((_, place, codes) => codes.slice(0, place + 1).join("/"))];

  /** Shows a chart in another state, and says so. @param {Changing} one @param {Partial<State>} wanted */
  const change = async (one, wanted) => {
    one.state = { ...one.state, ...wanted };
    keep();
    const first = one.figures[0].parents ? phrase("All") : phrase("As drawn");
    tell(noteOf(one) || (isFirst(one) ? first : phrase("Drawn anew.")));
    await Promise.all(one.figures.map((drawn) => show(one, drawn, "open" in wanted)));
  };

  /** What has to be known of a changed drawing. @param {Changing} one */
  const noteOf = (one) => {
    const { parents } = one.figures[0];
    if (one.state.open) return pathOf(one).map((key) => (key && parents?.[key]) || phrase("All")).join(" › ");
    const left = one.state.hidden.map((place) => one.series[place].name).join(", ");
    return left && phrase("Left out: {names}; the other figures stay as they are.").replace("{names}", left);
  };

  /** Puts a figure into the state of its chart. @param {Changing} one @param {Drawn} drawn @param {boolean} [follows] */
  const show = async (one, drawn, follows = false) => {
    const { chart } = drawn;
    const wanted = viewOf(one.state);
    const before = follows ? placesOf(chart) : new Map();
    hide();
    if (wanted !== drawn.now) {
      const view = await unpacked(drawn, wanted);
      if (!view || wanted !== viewOf(one.state)) return; // it has been changed again since
      chart.innerHTML = view.marks;
      chart.setAttribute("viewBox", view.box);
      [drawn.now, drawn.note] = [wanted, null];
      dress(chart);
      prepareLegend(one, drawn);
    }
    move(one, drawn);
    one.series.forEach((series, place) => {
      const hidden = one.state.hidden.includes(place);
      for (const mark of legendOf(drawn, series)) {
        mark.classList.toggle("off", hidden);
        if (mark.hasAttribute("aria-checked")) mark.setAttribute("aria-checked", String(!hidden));
      }
    });
    drawn.figure.querySelectorAll("select").forEach((field) => {
      field.value = String(one.state[/** @type {keyof State} */ (field.dataset.part)]);
    });
    const reset = /** @type {HTMLElement | null} */ (drawn.figure.querySelector(".reset"));
    if (reset) reset.hidden = isFirst(one) || Boolean(drawn.parents);
    drawn.buttons?.renew();
    writeNote(drawn, noteOf(one));
    writeWay(one, drawn);
    follow(chart, before);
  };

  /** A drawing that waits in the page. @param {Drawn} drawn @param {string} name */
  const unpacked = async (drawn, name) => {
    const [known, packed] = [drawn.views.get(name), drawn.packed.get(name)];
    if (known || !packed) return known;
    const bytes = Uint8Array.from(atob(packed), (one) => one.charCodeAt(0));
    const text = await new Response(new Blob([bytes]).stream().pipeThrough(new DecompressionStream("deflate"))).text();
    /** @type {View} */
    const view = JSON.parse(text);
    drawn.views.set(name, view);
    return view;
  };

  /** Hides the marks of hidden series, has the others close ranks, and moves categories to their places. @param {Changing} one @param {Drawn} drawn */
  const move = (one, drawn) => {
    const movable = drawn.views.get(drawn.now)?.movable;
    const gone = new Set(one.state.hidden.map((place) => JSON.stringify(one.series[place].key)));
    const isGone = (/** @type {DOMStringMap} */ { series, category }) => gone.has(JSON.stringify({ series })) || gone.has(JSON.stringify({ category }));
    const along = closed(drawn.chart, movable, isGone);
    const orders = drawn.views.get(viewOf(one.first))?.movable?.orders || {}; // by the figures of the chart as it was drawn
    const across = orderedBy(movable, orders[""] || [], orders[one.state.order] || []);
    let [last, hidden] = ["", false];
    for (const mark of drawn.chart.children) {
      const data = dataOf(mark);
      const { role = "" } = data;
      if (!role || role.startsWith("legend")) continue;
      if (role !== "pattern") { // which lies on the mark before it
        const shift = across.get(data.category || "") || 0;
        const [x, y] = movable?.horizontal ? [along.get(keyOf(data)) || 0, shift] : [shift, along.get(keyOf(data)) || 0];
        last = x || y ? `translate(${x.toFixed(2)} ${y.toFixed(2)})` : "";
        hidden = isGone(data) || (gone.size > 0 && (role === "stem" || role === "total")); // of marks that may be gone
      }
      data.own ??= mark.getAttribute("transform") || "";
      const whole = `${last} ${data.own}`.trim();
      if (whole) mark.setAttribute("transform", whole);
      else mark.removeAttribute("transform");
      if (hidden) mark.setAttribute("visibility", "hidden");
      else mark.removeAttribute("visibility");
    }
  };

  /** How far the bars of each stack move so that nothing stands between them and zero. @param {SVGSVGElement} chart @param {Movable | null | undefined} movable @param {(data: DOMStringMap) => boolean} isGone */
  const closed = (chart, movable, isGone) => {
    /** @type {Map<string, number>} */
    const shifts = new Map();
    if (!movable?.stacked) return shifts;
    /** @type {Map<string, { data: DOMStringMap, low: number, high: number }[]>} */
    const stacks = new Map();
    for (const bar of chart.querySelectorAll('[data-role="bar"]')) {
      const [start, length] = (movable.horizontal ? ["x", "width"] : ["y", "height"]).map((name) => Number(bar.getAttribute(name)));
      const data = dataOf(bar);
      const stack = keyOf({ ...data, series: "" });
      if (!stacks.has(stack)) stacks.set(stack, []);
      stacks.get(stack)?.push({ data, low: start, high: start + length });
    }
    for (const bars of stacks.values()) {
      const zero = movable.zeros[bars[0].data.panel || ""];
      const middle = bars.filter(({ low, high }) => low < zero - EPSILON && high > zero + EPSILON);
      const sides = [
        bars.filter(({ low }) => low >= zero - EPSILON).sort((a, b) => a.low - b.low),
        bars.filter(({ high }) => high <= zero + EPSILON).sort((a, b) => b.high - a.high),
      ];
      const shown = middle.filter(({ data }) => !isGone(data));
      let [up, down] = [Math.max(zero, ...shown.map(({ high }) => high)), Math.min(zero, ...shown.map(({ low }) => low))];
      for (const { data, low, high } of sides[0].filter((one) => !isGone(one.data))) {
        shifts.set(keyOf(data), up - low);
        up += high - low;
      }
      for (const { data, low, high } of sides[1].filter((one) => !isGone(one.data) && !sides[0].includes(one))) {
        shifts.set(keyOf(data), down - high);
        down -= high - low;
      }
    }
    return shifts;
  };

  /** How far each category moves from one order to another. @param {Movable | null | undefined} movable @param {string[]} from @param {string[]} to */
  const orderedBy = (movable, from, to) =>
    new Map(movable ? to.map((category, place) => [category, movable.middles[from[place]] - movable.middles[category]]) : []);

  /** Where each tile lies. @param {SVGSVGElement} chart */
  const placesOf = (chart) => new Map([...chart.querySelectorAll(TILES)].map((one) => [`${dataOf(one).role} ${dataOf(one).category}`, boxOf(one)]));

  /** @param {Element} one */
  const boxOf = (one) => ["x", "y", "width", "height"].map((name) => Number(one.getAttribute(name)));

  /** Moves tiles from where they were, unless the reader asks for rest. @param {SVGSVGElement} chart @param {Map<string, number[]>} before */
  const follow = (chart, before) => {
    if (!before.size || matchMedia("(prefers-reduced-motion: reduce)").matches) return;
    for (const one of chart.querySelectorAll(TILES)) {
      const was = before.get(`${dataOf(one).role} ${dataOf(one).category}`);
      if (!was) continue;
      const [x, y, width, height] = boxOf(one);
      const [wide, tall] = [was[2] / (width || 1), was[3] / (height || 1)];
      const start = `translate(${was[0] - wide * x}px, ${was[1] - tall * y}px) scale(${wide}, ${tall})`;
      one.animate([{ transform: start }, { transform: "none" }], { duration: DURATION, easing: "ease-out" });
    }
  };

  /** Writes a note under the drawing, which grows by its lines. @param {Drawn} drawn @param {string} text */
  const writeNote = (drawn, text) => {
    const { chart } = drawn;
    drawn.note?.remove();
    drawn.note = null;
    const [, , width, height] = (drawn.views.get(drawn.now)?.box || "").split(" ").map(Number);
    const size = Number(chart.querySelector('[data-role="footnote"],[data-role="source"],[data-role="legend"]')?.getAttribute("font-size")) || 8;
    const room = Math.max(Math.floor((width - 40) / (size * 0.5)), 20);
    const lines = text ? text.match(new RegExp(`.{1,${room}}(?:\\s|$)|\\S+`, "g")) || [] : [];
    const tall = String(height + lines.length * size * 1.4);
    chart.setAttribute("viewBox", `0 0 ${width} ${tall}`);
    chart.querySelector(":scope > rect:not([data-role])")?.setAttribute("height", tall);
    if (!lines.length) return;
    drawn.note = /** @type {SVGGElement} */ (document.createElementNS(SVG, "g"));
    drawn.note.dataset.role = "footnote";
    lines.forEach((line, number) => {
      const written = document.createElementNS(SVG, "text");
      const look = { x: 20, y: height + (number + 0.4) * size * 1.4, "font-size": size, fill: "#5c6770" };
      for (const [name, value] of Object.entries(look)) written.setAttribute(name, String(value));
      written.textContent = line.trim();
      drawn.note?.append(written);
    });
    chart.append(drawn.note);
  };

  /** Keeps all states in the address, so that a link shows the same. */
  const keep = () => {
    const texts = [...every.values()].filter((one) => !isFirst(one)).map((one) => {
      const { hidden, order, form, of, open } = one.state;
      return [one.name, hidden.join("."), order, form, of, open].map(encodeURIComponent).join("~");
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
      const [name, hidden = "", order = "", form = "", of = "", open = ""] = text.split("~").map(safely);
      others.get(name)?.set.forEach((set) => set(hidden));
      const one = every.get(name);
      if (!one) continue;
      const [drawn] = one.figures;
      const places = [...new Set(hidden.split(".").filter(Boolean).map(Number))].filter((place) => place in one.series);
      const known = drawn.packed.has(open || `${form}~${of}`);
      one.state = {
        hidden: places.length < one.series.length ? places.sort((a, b) => a - b) : [],
        order: order in (drawn.views.get(drawn.now)?.movable?.orders || {}) ? order : "",
        ...(known ? { form, of, open } : { form: one.first.form, of: one.first.of, open: "" }),
      };
      for (const drawn of one.figures) show(one, drawn);
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

  return { prepare, restore, register, keep };
};
