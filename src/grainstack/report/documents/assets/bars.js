// @ts-check
// Lays bars out anew in the room they were drawn in: the rules of the program's own pictures, on the cells of a chart.
// Plain numbers in, marks out; nothing here touches the page.

/**
 * @typedef {{ at: number[], value: number | null, fill: string, thin: string, text: string, plate: boolean,
 *   key: Record<string, string>, limits?: number[], pattern?: string, outline?: string, label?: string, wide?: number,
 *   marks?: string, letters?: string, lettersWide?: number }} Cell
 * @typedef {{ stays?: boolean, form: string, forms: string[], of: string, wholes: string[], ways: number[],
 *   base: string, horizontal: boolean, frames: number[][], columns: number,
 *   places: number[], span: number, intervals: number, style: Record<string, number>, ink: Record<string, string>,
 *   share: boolean, percent: boolean, whole: boolean, scale: number, decimals: number, signed: boolean,
 *   signs: string[], labelled: boolean, width: number | null, gap: number | null, opacity: number, patterned: number,
 *   slots: { name: string, last: boolean, rank: number }[], natural: string, ordered: boolean,
 *   series: { name: string, key: Record<string, string> }[], cells: Cell[],
 *   totals: { at: number[], key: Record<string, string>, limits?: number[] }[],
 *   advances: Record<string, Record<string, number>> }} Facts
 * @typedef {{ hidden: number[], order: string, form: string, of: string }} State
 * @typedef {{ above: number, below: number, known: boolean, sides: Bar[][] }} Stack
 * @typedef {{ cell: Cell, lane: number, start: number, end: number, low: number, high: number, label: string,
 *   wide: number }} Bar
 * @typedef {Record<string, any> & { tag: string, role: string }} Mark
 * @typedef {{ low: number, high: number, ticks: number[], labels: string[] }} Axis
 */

const Bars = (() => {
  "use strict";

  const BAR_SHARE = 0.66; // of a slot: bars twice as wide as the gaps
  const GROUP_SHARE = 0.8; // of a slot: bars of one group touch, groups keep a gap
  const TALL = 0.92; // of the type size: a figure from its foot to the top of its digits, and a hair
  const LETTER_GAP = 0.45; // of the type size: letters are read with their figure and not as a part of it
  const WHISKER_AWAY = 0.32; // of the thickness of a stack: whiskers stand beside the figures in its middle
  const WHISKER_THICKNESS = 0.4; // likewise: their caps stay within it
  const RIM = 0.4; // of a gap: how far a plate reaches beyond its text
  const STEPS = [1, 2, 2.5, 5, 10];

  /** A number as the chart writes it, rounded half away from zero. @param {Facts} facts @param {number} value @param {number} decimals */
  const written = (facts, value, decimals) => {
    const text = shift(Math.round(shift(Math.abs(value), decimals)), -decimals).toFixed(decimals);
    const [whole, part] = text.split(".");
    const grouped = whole.replace(/\B(?=(\d{3})+$)/g, facts.signs[0]);
    const sign = value < 0 && Number(text) !== 0 ? "−" : "";
    return sign + grouped + (part ? facts.signs[1] + part : "");
  };

  /** A number with its decimal point moved, as its shortest decimal form has it. @param {number} value @param {number} places */
  const shift = (value, places) => {
    const [digits, power = "0"] = `${value}`.split("e");
    return Number(`${digits}e${Number(power) + places}`);
  };

  /** A figure as it stands at its bar. @param {Facts} facts @param {number} value @param {number} scale @param {number} decimals */
  const figure = (facts, value, scale, decimals) => {
    const step = 10 ** -decimals / scale;
    if (scale === 100 && Math.abs(value) > 0 && Math.abs(value) < step / 2) {
      return value > 0 ? `<${written(facts, step * scale, decimals)}` : `>${written(facts, -step * scale, decimals)}`;
    }
    const text = written(facts, value * scale, decimals);
    return facts.signed && value > 0 && /[1-9]/.test(text) ? `+${text}` : text;
  };

  /** The width of a figure by the size of its type. @param {Facts} facts @param {string} text @param {string} weight */
  const widthOf = (facts, text, weight) =>
    [...text].reduce((sum, one) => sum + (facts.advances[weight][one] ?? 0.6), 0);

  /** The order of the categories: for each place the category that stands there. @param {Facts} facts @param {State} state @returns {number[]} */
  const ordered = (facts, state) => {
    const every = facts.slots.map((_, place) => place);
    if (!state.order) return every;
    const plain = every.filter((place) => !facts.slots[place].last);
    const last = every.filter((place) => facts.slots[place].last);
    if (state.order === "name") {
      plain.sort((one, other) => facts.slots[one].name.localeCompare(facts.slots[other].name));
    } else if (state.order === "natural") plain.sort((one, other) => facts.slots[one].rank - facts.slots[other].rank);
    else {
      const only = state.order.startsWith("series:") ? Number(state.order.slice(7)) : null;
      const hidden = new Set(state.hidden);
      const sizes = every.map(() => 0);
      for (const { cell, value } of shownValues(facts, state)) {
        if (only === null ? !hidden.has(cell.at[2]) : cell.at[2] === only) sizes[cell.at[1]] += only === null ? cell.value || 0 : value;
      }
      plain.sort((one, other) => sizes[other] - sizes[one] || one - other);
    }
    return [...plain, ...last];
  };

  /** Whether the bars are of one length, as wholes of which the segments are shares. @param {State} state */
  const percent = (state) => state.form === "stacked" && state.of === "category";

  /** Whether figures are shares of what is shown. @param {Facts} facts @param {State} state */
  const recounted = (facts, state) =>
    facts.share ? state.of === "category" && state.form !== "grouped" && state.hidden.length > 0 : state.of !== "";

  /** The cells shown, each with its value there. @param {Facts} facts @param {State} state */
  const shownValues = (facts, state) => {
    const cells = facts.cells.filter((cell) => !facts.series.length || !state.hidden.includes(cell.at[2]));
    if (!recounted(facts, state)) return cells.map((cell) => ({ cell, value: cell.value || 0 }));
    const wholeOf = (/** @type {Cell} */ cell) => (state.of === "all" ? "" : `${cell.at[0]},${cell.at[1]}`);
    /** @type {Map<string, number>} */
    const wholes = new Map();
    for (const cell of cells) wholes.set(wholeOf(cell), (wholes.get(wholeOf(cell)) || 0) + (cell.value || 0));
    return cells.map((cell) => ({ cell, value: (cell.value || 0) / (wholes.get(wholeOf(cell)) || 1) }));
  };

  /** Bars with their values, and what is written at them. @param {Facts} facts @param {State} state */
  const arranged = (facts, state) => {
    const shown = shownValues(facts, state);
    const anew = recounted(facts, state);
    const values = shown.filter(({ cell }) => cell.value !== null).map(({ value }) => Math.abs(value));
    const largest = Math.max(0, ...values);
    const decimals = anew ? (largest > 0 && largest < 0.1 ? 1 : 0) : facts.decimals;
    const lanes = [...new Set(shown.map(({ cell }) => cell.at[2]))].sort((one, other) => one - other);
    const last = lanes[lanes.length - 1];
    /** @type {Map<string, Stack>} */
    const stacks = new Map();
    /** @type {Bar[]} */
    const bars = [];
    for (const { cell, value } of shown) {
      const key = `${cell.at[0]},${cell.at[1]}`;
      const stack = stacks.get(key) || { above: 0, below: 0, known: false, sides: [[], [], []] };
      stacks.set(key, stack);
      let [start, end, low, high] = [0, value, NaN, NaN];
      stack.known = stack.known || cell.value !== null;
      if (state.form === "stacked") {
        start = value >= 0 ? stack.above : stack.below;
        end = start + value;
        if (value >= 0) stack.above = end;
        else stack.below = end;
        if (percent(state) && !anew && cell.limits && (cell.at[2] !== last || start === 0)) {
          [low, high] = [start + cell.limits[0], start + cell.limits[1]];
        }
      } else if (cell.limits && !anew) [low, high] = cell.limits;
      let [label, wide] = [cell.label || "", cell.wide || 0];
      if (anew && label && facts.labelled) {
        label = cell.value === null ? "–" : figure(facts, value, 100, decimals) + (cell.marks || "");
        wide = widthOf(facts, label, "semibold");
      }
      const bar = { cell, lane: state.form === "grouped" ? lanes.indexOf(cell.at[2]) : 0, start, end, low, high, label, wide };
      if (state.form === "diverging") stack.sides[facts.ways[cell.at[2]] + 1].push(bar);
      bars.push(bar);
    }
    if (state.form === "diverging") for (const stack of stacks.values()) lay(stack);
    return { bars, stacks, lanes: state.form === "grouped" ? Math.max(lanes.length, 1) : 1, anew, decimals };
  };

  /** Lays the segments of two sides from the middle on; neutral ones straddle it. @param {Stack} stack */
  const lay = (stack) => {
    const [opposite, straddling, onward] = stack.sides;
    const half = straddling.reduce((sum, bar) => sum + bar.end, 0) / 2;
    for (const [bars, from, way] of /** @type {[Bar[], number, number][]} */ ([[[...opposite].reverse(), -half, -1], [straddling, -half, 1], [onward, half, 1]])) {
      let start = from;
      for (const bar of bars) [bar.start, bar.end, start, bar.low, bar.high] = [start, start + way * bar.end, start + way * bar.end, NaN, NaN];
    }
    stack.below = opposite.length ? opposite[0].end : -half;
    stack.above = onward.length ? onward[onward.length - 1].end : half;
  };

  /** The finest round steps that cover a range with no more than so many intervals. @param {number} low @param {number} high @param {number} most */
  const ticksFor = (low, high, most) => {
    if (!(high - low > 1e-290)) high = low + 1;
    const power = Math.floor(Math.log10((high - low) / Math.max(most, 1)));
    for (const exponent of [power, power + 1]) {
      for (const factor of STEPS) {
        const step = factor * 10 ** exponent;
        const [first, last] = [Math.floor(low / step + 1e-9), Math.ceil(high / step - 1e-9)];
        if (last - first > most) continue;
        const extra = factor === 2.5 ? 1 : 0;
        const decimals = Math.max(0, extra - exponent);
        const values = Array.from({ length: last - first + 1 }, (_, n) => Number((step * (first + n)).toFixed(decimals + 1)));
        return { values, decimals };
      }
    }
    return { values: [low, high], decimals: 0 };
  };

  /** The value axis of some bars. @param {Facts} facts @param {State} state @param {ReturnType<typeof arranged>} made @returns {Axis} */
  const axisOf = (facts, state, made) => {
    const share = facts.share || made.anew;
    const scale = share ? 100 : facts.scale;
    const reached = made.bars.flatMap((bar) =>
      state.form === "grouped" || state.form === "simple"
        ? [0, bar.end, ...(Number.isNaN(bar.low) ? [] : [bar.low, bar.high])]
        : [bar.start, bar.end],
    );
    if (state.form === "stacked" && !state.of && !state.hidden.length) {
      for (const total of facts.totals) if (total.limits) reached.push(...total.limits);
    }
    const low = Math.min(0, ...reached);
    const high = percent(state) ? 1 : Math.max(0, ...reached);
    let ticks = ticksFor(low * scale, high * scale, facts.intervals);
    if (facts.whole && !share && ticks.decimals && scale === 1) {
      const first = Math.floor(ticks.values[0]);
      ticks = { values: Array.from({ length: Math.max(Math.ceil(high) - first, 1) + 1 }, (_, n) => first + n), decimals: 0 };
    }
    const values = ticks.values.map((value) => value / scale);
    const plain = state.form === "diverging" ? Math.abs : Number;
    const labels = ticks.values.map((value) => written(facts, plain(value), ticks.decimals));
    if (facts.percent || made.anew) {
      labels[0] += "%";
      if (labels.length > 1) labels[labels.length - 1] += "%";
    }
    return { low: Math.min(low, values[0]), high: Math.max(high, values[values.length - 1]), ticks: values, labels };
  };

  /** What is written at the ends of stacks. @param {Facts} facts @param {State} state @param {ReturnType<typeof arranged>} made */
  const totalsOf = (facts, state, made) => {
    /** @type {{ at: number[], value: number, down: boolean, label: string, wide: number, size: number, key: Record<string, string>, limits?: number[], letters: string, lettersWide: number }[]} */
    const totals = [];
    const sided = state.form === "diverging";
    if (!(sided || (state.form === "stacked" && !percent(state))) || facts.series.length - state.hidden.length < 2) return totals;
    for (const total of facts.totals) {
      const stack = made.stacks.get(total.at.join());
      if (!stack || !stack.known) continue;
      const limits = state.hidden.length || state.of || sided ? undefined : total.limits;
      const add = (/** @type {number} */ amount, /** @type {number} */ value, /** @type {boolean} */ down, marks = "") => {
        const label = figure(facts, amount, made.anew ? 100 : facts.scale, made.decimals) + marks;
        totals.push({ ...total, limits, value, down, label, wide: widthOf(facts, label, "semibold"), size: facts.style.value, letters: "", lettersWide: 0 });
      };
      if (sided) {
        stack.sides.forEach((bars, side) => {
          const amount = bars.reduce((sum, bar) => sum + Math.abs(bar.end - bar.start), 0);
          const marks = bars.length === 1 && bars[0].cell.value !== null ? bars[0].cell.marks : "";
          if (side !== 1 && amount) add(amount, side ? stack.above : stack.below, !side, marks);
        });
        continue;
      }
      const down = stack.above === 0 && stack.below < 0;
      add(stack.above + stack.below, down ? stack.below : limits ? Math.max(stack.above, limits[1]) : stack.above, down);
    }
    return totals;
  };

  /** A figure with its letters beyond a bar: the room it takes across and along. @param {{ label: string, wide: number, letters: string, lettersWide: number, size: number }} label @param {number} gap */
  const needs = (label, gap) => {
    let [wide, tall] = [label.label ? label.wide * label.size : 0, label.label ? label.size * TALL : 0];
    if (label.letters) {
      wide += label.lettersWide * label.size + (label.label ? label.size * LETTER_GAP : 0);
      tall += label.size * (label.label ? 1.05 : TALL);
    }
    return [wide + gap, tall + gap];
  };

  /** Marks of a chart in a state, in the order they are painted. @param {Facts} facts @param {State} state */
  const draw = (facts, state) => {
    const { style, ink, horizontal } = facts;
    const made = arranged(facts, state);
    const axis = axisOf(facts, state, made);
    const order = ordered(facts, state);
    const placeOf = new Map(order.map((slot, place) => [slot, facts.places[place]]));
    const beside = state.form === "grouped" || state.form === "simple";
    const totals = totalsOf(facts, state, made);

    // Where what stands beyond values draws the axis in.
    const labels = made.bars.map((bar) => ({
      label: bar.label,
      marks: bar.cell.marks || "",
      wide: bar.wide,
      letters: bar.cell.letters || "",
      lettersWide: bar.cell.lettersWide || 0,
      size: style.value,
    }));
    const slot = (horizontal ? facts.frames[0][3] - facts.frames[0][1] : facts.frames[0][2] - facts.frames[0][0]) / facts.span;
    const share = facts.width || (made.lanes > 1 ? GROUP_SHARE : BAR_SHARE);
    let pitch = (slot * share) / made.lanes;
    if (!facts.width) pitch = Math.min(pitch, style.bar_most);
    const thickness = pitch * (1 - (made.lanes > 1 ? facts.gap || 0 : 0));
    const across = made.lanes > 1 ? pitch : slot;
    if (beside && fittingSize(facts, labels, across) === null) {
      for (const label of labels) [label.label, label.wide] = [label.marks, widthOf(facts, label.marks, "semibold")];
    }
    const size = beside ? fittingSize(facts, labels, across) : null;
    const settled = labels.map((label) => (!beside ? label : size === null ? { ...label, label: "", letters: "" } : { ...label, size }));
    if (!beside) {
      const within = horizontal ? thickness / 1.12 : style.value;
      for (const label of labels) label.size = Math.min(style.value, Math.max(within, style.least_type));
    }

    /** @type {number[][]} */
    const beyond = [];
    const reach = (/** @type {Bar} */ bar) => {
      const ends = [0, bar.end, ...(Number.isNaN(bar.low) ? [] : [bar.low, bar.high])];
      return bar.end < bar.start ? Math.min(...ends) : Math.max(...ends);
    };
    if (beside) {
      made.bars.forEach((bar, place) => {
        const label = labels[place];
        if (!label.label && !label.letters) return;
        beyond.push([reach(bar), needs(label, style.gap)[horizontal ? 0 : 1], bar.end < bar.start ? 1 : 0]);
      });
    } else if (facts.labelled) {
      for (const total of totals) beyond.push([total.value, needs(total, style.gap)[horizontal ? 0 : 1], total.down ? 1 : 0]);
    }
    const first = facts.frames[0];
    const length = horizontal ? first[2] - first[0] : first[3] - first[1];
    const span = axis.high - axis.low;
    let [lowCut, highCut] = [0, 0];
    for (let round = 0; round < 3; round += 1) {
      const inner = Math.max(length - lowCut - highCut, length * 0.3);
      let [low, high] = [0, 0];
      for (const [at, need, down] of beyond) {
        const value = Math.min(Math.max(at, axis.low), axis.high);
        if (down) low = Math.max(low, need - ((value - axis.low) / span) * inner);
        else high = Math.max(high, need - ((axis.high - value) / span) * inner);
      }
      [lowCut, highCut] = [low, high];
    }
    lowCut = Math.min(lowCut, length * 0.45);
    highCut = Math.min(highCut, length * 0.45);

    const planes = facts.frames.map((frame) => {
      const [left, top, right, bottom] = frame;
      const box = horizontal ? [left + lowCut, top, right - highCut, bottom] : [left, top + highCut, right, bottom - lowCut];
      const value = (/** @type {number} */ at) => {
        const part = Math.min(Math.max((at - axis.low) / span, 0), 1);
        return horizontal ? box[0] + part * (box[2] - box[0]) : box[3] - part * (box[3] - box[1]);
      };
      const middle = (/** @type {number} */ at) => (horizontal ? box[1] : box[0]) + ((placeOf.get(at) || 0) + 0.5) * slot;
      const point = (/** @type {number} */ across, /** @type {number} */ at) => (horizontal ? [value(at), across] : [across, value(at)]);
      return { frame, box, value, middle, point };
    });
    /** @type {Mark[]} */
    const [behind, bars, over, outside, ticks] = [[], [], [], [], []];
    planes.forEach((plane, panel) => {
      behind.push(...gridMarks(facts, axis, plane));
      const atLeft = panel % facts.columns === 0;
      const atBottom = panel + facts.columns >= planes.length;
      if (horizontal ? atBottom : atLeft) ticks.push(...tickMarks(facts, axis, plane));
    });
    made.bars.forEach((bar, number) => {
      const { cell } = bar;
      const plane = planes[cell.at[0]];
      const label = settled[number];
      const middle = plane.middle(cell.at[1]) + (bar.lane - (made.lanes - 1) / 2) * pitch;
      const [near, far] = [middle - thickness / 2, middle + thickness / 2];
      const ends = [plane.value(bar.start), plane.value(bar.end)].sort((one, other) => one - other);
      const [x, y, right, bottom] = horizontal ? [ends[0], near, ends[1], far] : [near, ends[0], far, ends[1]];
      const box = { x, y, width: right - x, height: bottom - y };
      if (cell.value !== null) bars.push({ tag: "rect", role: "bar", ...box, cell });
      if (!Number.isNaN(bar.low)) over.push(...whisker(facts, plane, bar, middle, thickness, beside));
      const alone = state.form === "diverging" && facts.ways[cell.at[2]] !== 0 && made.stacks.get(`${cell.at[0]},${cell.at[1]}`)?.sides[facts.ways[cell.at[2]] + 1].length === 1;
      if (!beside && !alone && cell.value !== null) {
        const inside = label.label && label.wide * label.size + style.gap <= box.width && label.size * 1.1 <= box.height;
        if (inside) {
          const text = textMark(label, (x + right) / 2, (y + bottom) / 2 + label.size * 0.34, "middle", cell.text, cell.key);
          over.push(...(cell.plate ? plates(facts, [text]) : []), text);
        }
      }
      if (beside) outside.push(...beyondMarks(facts, label, plane, middle, reach(bar), bar.end < bar.start, cell.key, "value"));
    });
    for (const total of totals) {
      const plane = planes[total.at[0]];
      const middle = plane.middle(total.at[1]);
      if (total.limits) {
        const lines = whiskerLines(facts, plane, middle, thickness, total.limits, total.key);
        outside.push(...lines.map((line) => ({ ...line, role: "halo", stroke: ink.paper, thickness: line.thickness * 3 })), ...lines);
      }
      const fits = horizontal ? total.size * TALL <= slot : total.wide * total.size + 2 <= slot;
      if (facts.labelled && fits) outside.push(...beyondMarks(facts, total, plane, middle, total.value, total.down, total.key, "total"));
    }
    const parts = state.form === "simple" || (state.form === "grouped" && facts.gap) ? [] : partMarks(facts, state, bars);
    return [...behind, ...plates(facts, outside), ...bars, ...parts, ...over, ...outside, ...ticks];
  };

  /** The largest type at which labels beyond bars fit side by side; null when none down to the least does. @param {Facts} facts @param {any[]} labels @param {number} room */
  const fittingSize = (facts, labels, room) => {
    const { style } = facts;
    let factor;
    if (facts.horizontal) {
      const deep = Math.max(0, ...labels.map((label) => Texts.descent(label.label + label.letters)));
      factor = Math.min(1, room / (style.value * Math.max(TALL, 2 * (0.34 + deep) + 0.02)));
    } else {
      const wide = Math.max(0, ...labels.map((label) => Math.max(label.label ? label.wide : 0, label.letters ? label.lettersWide : 0) * style.value)) + 2;
      factor = wide > 2 ? Math.min(1, room / wide) : 1;
    }
    const size = style.value * factor;
    return size >= Math.min(style.least_type, style.value) ? size : null;
  };

  /** @param {any} label @param {number} x @param {number} y @param {string} anchor @param {string} fill @param {Record<string, string>} key @param {string} [role] @returns {Mark} */
  const textMark = (label, x, y, anchor, fill, key, role = "value") => ({
    tag: "text", role, x, y, content: label.label, size: label.size, width: label.wide * label.size, anchor, fill, key, weight: 600,
  });

  /** A figure and its letters just beyond a value. @param {Facts} facts @param {any} label @param {any} plane @param {number} middle @param {number} value @param {boolean} down @param {Record<string, string>} key @param {string} role */
  const beyondMarks = (facts, label, plane, middle, value, down, key, role) => {
    const { style, ink, horizontal } = facts;
    let [x, y] = plane.point(middle, value);
    const { size } = label;
    /** @type {Mark[]} */
    const marks = [];
    const letters = (/** @type {number} */ atX, /** @type {number} */ atY, /** @type {string} */ anchor) =>
      marks.push({
        tag: "text", role: "letter", x: atX, y: atY, content: label.letters, size, width: label.lettersWide * size, anchor, fill: ink.muted, key, weight: 400,
      });
    if (horizontal) {
      const way = down ? -1 : 1;
      const anchor = down ? "end" : "start";
      [x, y] = [x + way * style.gap, y + size * 0.34];
      if (label.label) {
        marks.push(textMark(label, x, y, anchor, ink.ink, key, role));
        x += way * (label.wide * size + size * LETTER_GAP);
      }
      if (label.letters) letters(x, y, anchor);
      return marks;
    }
    y = down ? y + style.gap * 0.75 + size * 0.7 : y - style.gap * 0.75;
    if (label.label) {
      marks.push(textMark(label, x, y, "middle", ink.ink, key, role));
      y += down ? size * 1.05 : -size * 1.05;
    }
    if (label.letters) letters(x, y, "middle");
    return marks;
  };

  /** A plate of paper behind each text on paper. @param {Facts} facts @param {Mark[]} marks @returns {Mark[]} */
  const plates = (facts, marks) => {
    const rim = facts.style.gap * RIM;
    return marks.filter((mark) => mark.tag === "text").map((mark) => {
      const [left, top, right, bottom] = Texts.boxOf(mark);
      return { tag: "rect", role: "ground", x: left - rim, y: top - rim, width: right - left + 2 * rim, height: bottom - top + 2 * rim, fill: facts.ink.paper };
    });
  };

  /** @param {Facts} facts @param {Axis} axis @param {any} plane @returns {Mark[]} */
  const gridMarks = (facts, axis, plane) =>
    axis.ticks.map((value) => {
      const at = plane.value(value);
      const stroke = value === 0 && axis.low < 0 ? facts.ink.muted : facts.ink.grid;
      const [left, top, right, bottom] = plane.box;
      const gap = facts.style.gap;
      const ends = facts.horizontal ? { x1: at, y1: top - gap, x2: at, y2: bottom + gap } : { x1: left, y1: at, x2: right, y2: at };
      return { tag: "line", role: "grid", ...ends, stroke, thickness: facts.style.grid };
    });

  /** @param {Facts} facts @param {Axis} axis @param {any} plane @returns {Mark[]} */
  const tickMarks = (facts, axis, plane) => {
    const { style, ink, horizontal } = facts;
    /** @type {Mark[]} */
    const marks = [];
    let free = -1e9;
    axis.ticks.forEach((value, number) => {
      const at = plane.value(value);
      const content = axis.labels[number];
      const width = widthOf(facts, content, "regular") * style.tick;
      const place = horizontal
        ? { x: at, y: plane.box[3] + style.gap + style.tick, anchor: "middle" }
        : { x: plane.frame[0] - style.gap * 1.5, y: at + style.tick * 0.33, anchor: "end" };
      const [start, end] = horizontal ? [at - width / 2, at + width / 2] : [-at - style.tick * 0.5, -at + style.tick * 0.5];
      if (start < free) return;
      free = end + style.tick * 0.3;
      marks.push({ tag: "text", role: "tick", ...place, content, size: style.tick, width, fill: ink.muted, weight: 400 });
    });
    return marks;
  };

  /** @param {Facts} facts @param {any} plane @param {number} middle @param {number} thickness @param {number[]} limits @param {Record<string, string>} key */
  const whiskerLines = (facts, plane, middle, thickness, limits, key) => {
    const cap = Math.min(facts.style.cap, thickness * 0.3);
    const [low, high] = limits;
    const strokes = [[middle, low, middle, high], [middle - cap, low, middle + cap, low], [middle - cap, high, middle + cap, high]];
    return strokes.map((stroke) => whiskerLine(plane, stroke, facts.ink.ink, facts.style.whisker, key));
  };

  /** @param {any} plane @param {number[]} stroke @param {string} color @param {number} thickness @param {Record<string, string>} key @returns {Mark} */
  const whiskerLine = (plane, [first, start, second, end], color, thickness, key) => {
    const [[x1, y1], [x2, y2]] = [plane.point(first, start), plane.point(second, end)];
    return { tag: "line", role: "whisker", x1, y1, x2, y2, stroke: color, thickness, key };
  };

  /** The whisker of a bar: fainter inside it; of a segment beside its figure, on a halo. @param {Facts} facts @param {any} plane @param {Bar} bar @param {number} middle @param {number} thickness @param {boolean} beside */
  const whisker = (facts, plane, bar, middle, thickness, beside) => {
    const { style, ink } = facts;
    const { key } = bar.cell;
    if (!beside) {
      const away = thickness * WHISKER_AWAY * (bar.cell.at[2] % 2 ? -1 : 1);
      const lines = whiskerLines(facts, plane, middle + away, thickness * WHISKER_THICKNESS, [bar.low, bar.high], key);
      return [...lines.map((line) => ({ ...line, role: "halo", stroke: ink.paper, thickness: line.thickness * 3 })), ...lines];
    }
    const cap = Math.min(style.cap, thickness * 0.3);
    const tip = Math.min(Math.max(bar.end, bar.low), bar.high);
    const [inner, outer] = bar.end >= 0 ? [bar.low, bar.high] : [bar.high, bar.low];
    const marks = [
      whiskerLine(plane, [middle, tip, middle, outer], ink.ink, style.whisker, key),
      whiskerLine(plane, [middle - cap, outer, middle + cap, outer], ink.ink, style.whisker, key),
    ];
    if (tip !== inner) {
      const thin = style.whisker * 0.7;
      const past = inner * bar.end < 0 || (bar.end === 0 && inner !== 0); // past the foot of the bar, on plain ground again
      const foot = past ? 0 : inner;
      marks.push(whiskerLine(plane, [middle, foot, middle, tip], bar.cell.thin, thin, key));
      if (past) marks.push(whiskerLine(plane, [middle, inner, middle, foot], ink.ink, style.whisker, key));
      const [color, strength] = past ? [ink.ink, style.whisker] : [bar.cell.thin, thin];
      marks.push(whiskerLine(plane, [middle - cap, inner, middle + cap, inner], color, strength, key));
    }
    return marks;
  };

  /** Thin lines of paper where segments or neighbours meet. @param {Facts} facts @param {State} state @param {Mark[]} bars @returns {Mark[]} */
  const partMarks = (facts, state, bars) => {
    const { part } = facts.style;
    const alongX = facts.horizontal !== (state.form === "grouped");
    return bars
      .filter((mark) => Math.min(mark.width, mark.height) >= part * 1.5)
      .map((mark) => {
        const [right, bottom] = [mark.x + mark.width, mark.y + mark.height];
        const ends = alongX ? { x1: right, y1: mark.y, x2: right, y2: bottom } : { x1: mark.x, y1: mark.y, x2: right, y2: mark.y };
        return { tag: "line", role: "part", ...ends, stroke: facts.ink.paper, thickness: part, key: mark.cell.key };
      });
  };

  return { draw, ordered, recounted, percent };
})();
