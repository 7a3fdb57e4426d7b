// @ts-check
// Lays the tiles of a treemap out anew in the room they were drawn in, from any parent on: the program's own rules.

/**
 * @typedef {{ key: string, size: number, label: string, words: [string, number][], bold: number, total: string,
 *   totalWide: number, pale?: string, paleInk?: string, fill?: string, ink?: string, pattern?: string, figure?: string,
 *   figureWide?: number, kids?: Tile[], rest?: boolean }} Tile
 * @typedef {{ kind: string, depth: number, room: number[], style: Record<string, number>, paper: string, outline: string,
 *   labelled: boolean, patterned: number, space: number, rest: { fill: string, pattern: string, label: string, words: [string, number][] },
 *   digits: Record<string, number[]>, signs: string[], root: Tile }} TileFacts
 */

const Tiles = (() => {
  "use strict";

  const LEAST_SIDE = 2.4; // a tile whose sides would be smaller is not seen: it goes into the rest
  const LINE = 1.18; // the height of a line by the size of the type

  /** The tile of a key, with those around it from the outermost on; the root alone where there is none. @param {TileFacts} facts @param {string} key */
  const path = (facts, key) => {
    const found = [facts.root];
    for (;;) {
      const last = found[found.length - 1];
      const next = (last.kids || []).find((one) => one.kids && (one.key === key || key.startsWith(`${one.key}/`)));
      if (!next || last.key === key) return last.key === key ? found : [facts.root];
      found.push(next);
    }
  };

  /** Near-square rectangles in proportion to sizes, from the largest. @param {number[]} sizes @param {number[]} room */
  const squarified = (sizes, [left, top, width, height]) => {
    const total = sizes.reduce((sum, one) => sum + one, 0);
    if (width <= 0 || height <= 0 || total <= 0) return sizes.map(() => [left, top, 0, 0]);
    const areas = sizes.map((size) => (size * width * height) / total);
    const worst = (/** @type {number} */ largest, /** @type {number} */ smallest, /** @type {number} */ row, /** @type {number} */ side) =>
      smallest < 1e-100 || row < 1e-100 || !side ? Infinity : Math.max((side * side * largest) / (row * row), (row * row) / (side * side * smallest));
    const found = [];
    for (let start = 0; start < areas.length; ) {
      const side = Math.min(width, height);
      let [end, row] = [start + 1, areas[start]];
      let bad = worst(areas[start], areas[start], row, side);
      while (end < areas.length) {
        const next = worst(areas[start], areas[end], row + areas[end], side);
        if (next > bad) break;
        [row, bad, end] = [row + areas[end], next, end + 1];
      }
      const thick = end === areas.length ? Math.max(width, height) : side ? row / side : 0;
      const lying = width >= height;
      let at = lying ? top : left;
      for (const area of areas.slice(start, end)) {
        const long = row ? (area / row) * side : 0;
        found.push(lying ? [left, at, thick, long] : [at, top, long, thick]);
        at += long;
      }
      if (lying) [left, width] = [left + thick, Math.max(width - thick, 0)];
      else [top, height] = [top + thick, Math.max(height - thick, 0)];
      start = end;
    }
    return found;
  };

  /** How many leaves a tile has. @param {Tile} tile @returns {number} */
  const leaves = (tile) => (tile.kids ? tile.kids.reduce((sum, one) => sum + leaves(one), 0) : 1);

  /** The small ones together. @param {TileFacts} facts @param {Tile} parent @param {Tile[]} small @returns {Tile} */
  const rest = (facts, parent, small) => {
    const count = `${small.reduce((sum, one) => sum + leaves(one), 0)}`.replace(/\B(?=(\d{3})+$)/g, facts.signs[0]);
    const wide = [...count].reduce((sum, one) => sum + facts.digits[one][0], 0);
    const words = facts.rest.words.map(([word, width]) => /** @type {[string, number]} */ (word === "{count}" ? [count, wide] : [word, width]));
    return {
      key: `${parent.key ? `${parent.key}/` : ""}*smaller`, size: small.reduce((sum, one) => sum + one.size, 0), label: facts.rest.label.replace("{count}", count),
      words, bold: 0, total: "", totalWide: 0, fill: facts.rest.fill, pattern: facts.rest.pattern, ink: "", figure: "", figureWide: 0, rest: true,
    };
  };

  /** Marks from a tile on. @param {TileFacts} facts @param {string} key @returns {Mark[]} */
  const draw = (facts, key) => {
    const opened = path(facts, key);
    /** @type {Mark[]} */
    const [marks, texts] = [[], []];
    const [left, top, right, bottom] = facts.room;
    tile(facts, opened[opened.length - 1], [left, top, right - left, bottom - top], 0, marks, texts);
    return [...marks, ...texts];
  };

  /** @param {TileFacts} facts @param {Tile} node @param {number[]} room @param {number} depth @param {Mark[]} marks @param {Mark[]} texts */
  const tile = (facts, node, room, depth, marks, texts) => {
    const inner = node.label ? framed(facts, node, room, depth, marks, texts) : room;
    let shown = node.kids || [];
    const area = Math.max(inner[2] * inner[3], 0);
    const small = shown.filter((one) => (one.size / node.size) * area < LEAST_SIDE ** 2);
    if (small.length > 1) {
      shown = shown.filter((one) => !small.includes(one));
      shown = [...shown, rest(facts, node, small)].sort((one, other) => other.size - one.size);
    }
    const gap = facts.style.part * (depth + 1 >= facts.depth ? 0.9 : 1.6);
    squarified(shown.map((one) => one.size), inner).forEach(([left, top, wide, tall], number) => {
      const rim = Math.min(gap / 2, wide / 6, tall / 6);
      const box = [left + rim, top + rim, wide - 2 * rim, tall - 2 * rim];
      const child = shown[number];
      if (child.kids) tile(facts, child, box, depth + 1, marks, texts);
      else leaf(facts, child, box, marks, texts);
    });
  };

  /** A title bar with the total, where there is room; and the room left. @param {TileFacts} facts @param {Tile} node @param {number[]} room @param {number} depth @param {Mark[]} marks @param {Mark[]} texts */
  const framed = (facts, node, [x, y, width, height], depth, marks, texts) => {
    const { style } = facts;
    const size = depth <= 1 ? style.category : style.value;
    const high = size * 1.75;
    if (height < high * 2.2 || width < size * 4) return [x, y, width, height];
    const key = { category: node.key };
    marks.push({ tag: "rect", role: "frame", x, y, width, height: high, fill: node.pale, key });
    const base = y + high / 2 + size * 0.34;
    const [wide, figure] = [node.bold * size, node.totalWide * size];
    if (wide + style.gap * 2 <= width) {
      texts.push({ tag: "text", role: "tile", x: x + style.gap, y: base, content: node.label, size, width: wide, fill: node.paleInk, weight: 600, anchor: "start", key });
      if (wide + figure + style.gap * 4 <= width) {
        texts.push({ tag: "text", role: "value", x: x + width - style.gap, y: base, content: node.total, size, width: figure, fill: node.paleInk, weight: 400, anchor: "end", key });
      }
    }
    return [x, y + high + style.part, width, height - high - style.part];
  };

  /** @param {TileFacts} facts @param {Tile} node @param {number[]} box @param {Mark[]} marks @param {Mark[]} texts */
  const leaf = (facts, node, [x, y, width, height], marks, texts) => {
    const key = { category: node.key };
    const cell = { fill: node.fill, pattern: node.pattern, outline: facts.outline, key, rest: node.rest };
    marks.push({ tag: "rect", role: "tile", x, y, width, height, cell });
    const written = writtenIn(facts, node, [x, y, width, height]);
    if (node.pattern) {
      for (const text of written) {
        const [left, top, right, bottom] = Texts.boxOf(text);
        const rim = facts.style.gap * 0.4;
        texts.push({ tag: "rect", role: "ground", x: left - rim, y: top - rim, width: right - left + 2 * rim, height: bottom - top + 2 * rim, fill: facts.paper, key });
      }
    }
    texts.push(...written);
  };

  /** A name with its figure beneath, in the largest type at which both are whole; else the name alone. @param {TileFacts} facts @param {Tile} node @param {number[]} box @returns {Mark[]} */
  const writtenIn = (facts, node, [x, y, width, height]) => {
    const { style } = facts;
    const rim = style.gap * 0.9;
    const [wide, tall] = [width - 2 * rim, height - 2 * rim];
    if (wide < style.least_type * 1.5 || tall < style.least_type) return [];
    const key = { category: node.key };
    const fill = node.rest ? facts.root.paleInk || "#1f2a33" : node.ink;
    /** @type {Mark[]} */
    let without = [];
    for (const size of [style.category * 1.25, style.category, style.value, style.tick, style.base, style.least_type]) {
      if (size < style.least_type) continue;
      const lines = balanced(facts, node.words, size, wide, Math.max(Math.floor(tall / (size * LINE)), 1));
      if (!lines || lines.length * size * LINE > tall) continue;
      const marks = lines.map(([content, long], place) => ({
        tag: "text", role: "tile", x: x + rim, y: y + rim + size * (LINE * (place + 1) - 0.3), content, size, width: long, fill, weight: 400, anchor: "start", key,
      }));
      if (!facts.labelled) return marks;
      const type = Math.max(size * 0.85, style.least_type);
      const base = y + rim + size * (LINE * lines.length - 0.3) + type * 1.2;
      const long = (node.figureWide || 0) * type;
      if (node.figure && base + type * 0.25 <= y + height - rim * 0.5 && long <= width - 2 * rim) {
        return [...marks, { tag: "text", role: "value", x: x + rim, y: base, content: node.figure, size: type, width: long, fill, weight: 600, anchor: "start", key }];
      }
      if (!without.length) without = marks;
    }
    return without;
  };

  /** Words in lines of about the same length; nothing where one has no room. @param {TileFacts} facts @param {[string, number][]} words @param {number} size @param {number} room @param {number} most @returns {[string, number][] | null} */
  const balanced = (facts, words, size, room, most) => {
    const lines = wrapped(facts, words, size, room, most);
    if (!lines || lines.length < 2) return lines;
    let [narrow, wide] = [words.reduce((sum, [, one]) => sum + one + facts.space, -facts.space) * size / lines.length, room];
    while (wide - narrow > size / 2) {
      const middle = (narrow + wide) / 2;
      if (wrapped(facts, words, size, middle, most)?.length === lines.length) wide = middle;
      else narrow = middle;
    }
    return wrapped(facts, words, size, wide, most);
  };

  /** @param {TileFacts} facts @param {[string, number][]} words @param {number} size @param {number} room @param {number} most @returns {[string, number][] | null} */
  const wrapped = (facts, words, size, room, most) => {
    /** @type {[string, number][]} */
    const lines = [];
    for (const [word, wide] of words) {
      const last = lines[lines.length - 1];
      const joined = last ? last[1] + (facts.space + wide) * size : 0;
      if (last && (joined <= room || lines.length >= most)) lines[lines.length - 1] = [`${last[0]} ${word}`, joined];
      else lines.push([word, wide * size]);
    }
    return lines.every(([, wide]) => wide <= room) ? lines : null;
  };

  return { draw, path };
})();
