// The chart as it will print, and what can be done to its parts: by pointer, and by the keys.
import { act, answer, at, begin, hear, listOf, made, onAnswer, optionNamed, quoted, set, setOne, spoken, valueOf } from "./page.js";
import { closeMenu, openMenu } from "./menu.js";
import { draggable } from "./columns.js";
import { reveal } from "./panel.js";

const WORDS = ["title", "subtitle", "footnote", "source", "value-title", "category-title", "second-title"]; // typed where they stand
const MARKS = ["bar", "dot", "slice", "tile", "box", "area", "line", "legend-swatch", "mean", "median"];
const LEVELS = ["category", "legend", "panel-title", "slice-label", "label"];
const QUIET = ["paper", "ground", "grid", "frame", "halo", "part", "pattern"];
const ORDER = { category: "order", series: "split_order", panel: "panel_order" };
let current = null; // the part that the keys are at

const parts = () => [...at("picture").querySelectorAll("svg [data-role]")].filter((one) => !QUIET.includes(one.dataset.role));
const textOf = (one) => one.firstChild?.textContent ?? "";
const columnsOf = (role) => (answer.drawn.figures?.columns ?? []).filter((one) => one.role === role);

// The level that a part shows, of its innermost column: what it is called, its column and its place.
function levelOf(part, want = null) {
  for (const role of want ? [want] : ["series", "category", "panel"]) {
    const code = part.dataset[role], columns = columnsOf(role);
    if (code === undefined || !columns.length) continue;
    const codes = code.split("/"), column = columns[codes.length - 1] ?? columns[columns.length - 1];
    const level = column.levels.find((one) => one.code === codes[codes.length - 1]);
    if (level) return { ...level, column, role, nested: columns.length > 1 };
  }
  return null;
}

function namesOf(part) {
  return ["panel", "category", "series"].map((role) => levelOf(part, role)?.name).filter(Boolean);
}

function rowOf(part) {
  const rows = answer.drawn.figures?.rows ?? [];
  const fits = (row) => ["panel", "category", "series"].every((role) => (row.at[role] ?? "") === (part.dataset[role] ?? ""));
  return rows.findIndex(fits);
}

function light(place) {
  for (const one of at("picture").querySelectorAll(".lit")) one.classList.remove("lit");
  for (const one of at("figures").querySelectorAll(".lit")) one.classList.remove("lit");
  if (place < 0) return;
  const row = at("figures").querySelectorAll("tbody tr")[place];
  row?.classList.add("lit");
  if (at("beneath").open) row?.scrollIntoView({ block: "nearest" });
  const wanted = answer.drawn.figures.rows[place].at;
  for (const one of parts()) {
    const same = ["panel", "category", "series"].every((role) => (wanted[role] ?? "") === (one.dataset[role] ?? ""));
    if (same && MARKS.includes(one.dataset.role)) one.classList.add("lit");
  }
}

function contrast(one, other) {
  const light = (color) => {
    const [r, g, b] = [1, 3, 5].map((at) => parseInt(color.slice(at, at + 2), 16) / 255).map((c) => (c <= 0.03928 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
    return 0.2126 * r + 0.7152 * g + 0.0722 * b;
  };
  const [high, low] = [light(one), light(other)].sort((a, b) => b - a);
  return (high + 0.05) / (low + 0.05);
}

function colored(level, color) {
  const kept = listOf("color").filter((one) => !one.startsWith(`${level.name}=`));
  return setOne("color", [...kept, `${level.name}=${color}`]);
}

function openColors(part, level) {
  const likeness = made("small");
  const used = new Set(listOf("color").map((one) => one.split("=").pop()));
  const swatches = made("div", { className: "swatches" }, ...begin.colors.map((color) => {
    const one = made("button", { title: color, attributes: { "aria-label": `${level.name} in ${color}` } });
    one.style.background = color;
    one.onpointerenter = one.onfocus = () => { likeness.textContent = `${color} on paper: contrast ${contrast(color, "#ffffff").toFixed(1)} to 1${used.has(color) ? "; another level has it" : ""}`; };
    one.onclick = () => { closeMenu(); colored(level, color); };
    return one;
  }));
  const any = made("input", { type: "color", value: /^#[0-9a-f]{6}$/i.test(part.getAttribute("fill") ?? "") ? part.getAttribute("fill") : "#1a726a", attributes: { "aria-label": "Any colour" } });
  any.onchange = () => { closeMenu(); colored(level, any.value); };
  openMenu(part, made("b", { textContent: `Colour of ${level.name}` }), swatches, any, likeness);
}

function openText(part, title, value, done, hint = "") {
  const input = made("input", { type: "text", className: "wide", value, attributes: { "aria-label": title } });
  input.onkeydown = (event) => { if (event.key === "Enter") { closeMenu(); done(input.value.trim()); } };
  const keep = made("button", { textContent: "Keep", onclick: () => { closeMenu(); done(input.value.trim()); } });
  openMenu(part, made("b", { textContent: title }), input, keep, made("small", { textContent: hint }));
  input.select();
}

function openWords(part, name) {
  const lines = [...at("picture").querySelectorAll(`[data-role="${part.dataset.role}"]`)];
  const now = valueOf(name) ?? (name === "footnote" ? "" : lines.map(textOf).join(" "));
  openText(part, spoken(name), now, (value) => { if (value !== now) setOne(name, value || (name === "footnote" ? null : "none")); });
}

const action = (textContent, onclick) => made("button", { textContent, onclick: () => { closeMenu(); onclick(); } });

function openRename(part, level) {
  const hint = "Written into the codebook, for all charts; undo takes it back.";
  openText(part, `Rename ${level.name}`, level.name, (name) => {
    if (name && name !== level.name) act("rename", { column: level.column.name, code: decodeURIComponent(level.code), name });
  }, hint);
}

function openMerge(part, level) {
  openText(part, `Merge ${level.name} into`, "Other", (name) => {
    if (!name) return;
    const start = `${level.column.name}: `, kept = listOf("recode");
    const mine = kept.find((one) => one.startsWith(start) && one.endsWith(`-> ${quoted(name)}`));
    const rule = mine ? mine.replace(" ->", `, ${quoted(level.name)} ->`) : `${start}${quoted(level.name)} -> ${quoted(name)}`;
    setOne("recode", [...kept.filter((one) => one !== mine), rule]);
  }, "In this chart alone. Merge others into the same name after it.");
}

function openMark(part, level) {
  const place = rowOf(part), figure = answer.drawn.figures?.rows[place];
  const names = namesOf(part).join(", "), deeds = [];
  const kept = (valueOf("highlight") ?? "").split(",").map((one) => one.trim()).filter(Boolean);
  const next = kept.includes(level.name) ? kept.filter((one) => one !== level.name) : [...kept, level.name];
  if (optionNamed("highlight")) deeds.push(action(kept.includes(level.name) ? "No highlight" : "Highlight", () => setOne("highlight", next.join(", "))));
  if (optionNamed("set_apart")) deeds.push(action("Set apart", () => setOne("set_apart", level.name)));
  if (optionNamed("annotation")) {
    deeds.push(action("Note", () => openText(part, `Note at ${names}`, "", (text) => {
      if (text) setOne("annotation", [...listOf("annotation"), `${namesOf(part).map(quoted).join(", ")}: ${text}`]);
    })));
  }
  if (optionNamed("color")) deeds.push(action("Colour", () => openColors(part, level)));
  if (level.plain) {
    deeds.push(action("Rename", () => openRename(part, level)));
    deeds.push(action("Merge", () => openMerge(part, level)));
    deeds.push(action("Leave out", () => setOne("except", [...listOf("except"), `${level.column.name}=${quoted(level.name)}`])));
  }
  const texts = figure ? figure.texts.slice(answer.drawn.figures.columns.length) : [];
  const about = figure ? ` · ${texts[0]}${texts.length > 2 ? ` (${texts[1]}–${texts[2]})` : ""}, n = ${texts.at(-1)}` : "";
  openMenu(part, made("b", { textContent: `${names}${about}` }), ...deeds);
  light(place);
}

// An order by hand is the names in the order in which they are to stand.
function ordered(level, from, to) {
  const names = level.column.levels.filter((one) => one.plain).map((one) => one.name);
  names.splice(to, 0, ...names.splice(from, 1));
  const value = names.map(quoted).join(", ");
  const option = ORDER[level.role];
  return setOne(option, level.nested && option === "order" ? [...listOf("order").filter((one) => !one.startsWith(`${level.column.name}:`)), `${level.column.name}: ${value}`] : optionNamed(option).form === "list" ? [value] : value);
}

function openLevel(part, level) {
  const option = ORDER[level.role], plain = level.column.levels.filter((one) => one.plain);
  const place = plain.findIndex((one) => one.code === level.code), deeds = [];
  if (optionNamed(option) && level.plain) {
    const rules = ["largest-first", "smallest-first", "alphabetical", "codebook"];
    if (place > 0) deeds.push(action("Earlier", () => ordered(level, place, place - 1)));
    if (place < plain.length - 1) deeds.push(action("Later", () => ordered(level, place, place + 1)));
    deeds.push(...rules.map((rule) => action(rule, () => setOne(option, optionNamed(option).form === "list" ? [rule] : rule))));
  }
  if (level.plain) {
    deeds.push(action("Rename", () => openRename(part, level)), action("Merge", () => openMerge(part, level)));
    deeds.push(action("Leave out", () => setOne("except", [...listOf("except"), `${level.column.name}=${quoted(level.name)}`])));
  }
  if (level.role === "series" && optionNamed("color")) deeds.push(action("Colour", () => openColors(part, level)));
  if (level.role === "series" && optionNamed("legend")) {
    const places = optionNamed("legend").choices.map((one) => action(`legend ${one}`, () => setOne("legend", one)));
    deeds.push(...places);
  }
  openMenu(part, made("b", { textContent: level.name }), ...deeds);
}

function openAxis(part) {
  const field = (name, words, hint) => (optionNamed(name) ? [action(words, () => openText(part, words, String([valueOf(name) ?? ""].flat().join(", ")), (value) => setOne(name, value), hint))] : []);
  const line = action("Reference line", () => openText(part, "Reference line", "", (value) => { if (value) setOne("reference", [...listOf("reference"), value]); }, "A number, mean, or a level; with a name: 12=Target."));
  openMenu(part, made("b", { textContent: "Axis" }), ...field("value_range", "Range", "Lowest and highest value: 0,100"), ...field("ticks", "Ticks", "How many, or the values: 0,20,40"),
    ...field("format", "Pattern", "Such as #,##0.0 or 0 €"), ...field("show_in", "Thousands, millions", "thousands, millions or billions"), ...(optionNamed("reference") ? [line] : []));
}

function openLimits(part) {
  const kinds = optionNamed("error_bars").choices.map((one) => action(one, () => setOne("error_bars", one)));
  const levels = [80, 90, 95, 99].map((one) => action(`${one} %`, () => set({ error_bars: "confidence", confidence: one })));
  openMenu(part, made("b", { textContent: "Whiskers" }), ...kinds, ...levels);
}

function openNote(part) {
  const list = listOf("annotation"), place = [...at("picture").querySelectorAll('[data-role="annotation"]')].map(textOf).findIndex((one) => one === textOf(part));
  const at_ = list.findIndex((one) => one.includes(textOf(part))), which = at_ >= 0 ? at_ : Math.min(place, list.length - 1);
  if (which < 0) return reveal("annotation");
  const [target, ...rest] = list[which].split(": ");
  const others = list.filter((_, number) => number !== which);
  return openMenu(part, made("b", { textContent: rest.join(": ") }),
    action("Change", () => openText(part, "Note", rest.join(": "), (text) => setOne("annotation", text ? [...others, `${target}: ${text}`] : others))),
    ...["top left", "top right", "bottom left", "bottom right"].map((corner) => action(corner, () => setOne("annotation", [...others, `${corner.replace(" ", "-")}: ${rest.join(": ")}`]))),
    action("Take away", () => setOne("annotation", others)));
}

export function changePart(part) {
  const role = part.dataset.role, names = (begin.parts[role] ?? []).filter(optionNamed);
  const level = levelOf(part, role === "category" || role === "slice-label" || role === "label" ? "category" : role === "panel-title" ? "panel" : null);
  if (WORDS.includes(role) && names.length) openWords(part, names[0]);
  else if (role === "annotation" && optionNamed("annotation")) openNote(part);
  else if (role === "whisker" && optionNamed("error_bars")) openLimits(part);
  else if ((role === "tick" || role === "tick-mark") && names.length) openAxis(part);
  else if (LEVELS.includes(role) && level) openLevel(part, level);
  else if (MARKS.includes(role) && level) openMark(part, level);
  else if (names.length > 1) openMenu(part, ...names.map((name) => action(spoken(name), () => reveal(name))));
  else if (names.length) reveal(names[0]);
}

// Keys: the arrows go from part to part, Enter changes the one they are at.
function goTo(part) {
  current = part;
  const ring = at("ring");
  ring.hidden = !part;
  if (!part) return;
  const box = part.getBoundingClientRect(), stage = at("stage").getBoundingClientRect();
  Object.assign(ring.style, { left: `${box.left - stage.left - 4}px`, top: `${box.top - stage.top - 4}px`, width: `${box.width + 8}px`, height: `${box.height + 8}px` });
  const names = namesOf(part).join(", ");
  hear(`${part.dataset.role.replaceAll("-", " ")} ${names || textOf(part)}`);
}

at("picture").addEventListener("keydown", (event) => {
  const every = parts(), place = every.indexOf(current);
  const to = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
  if (to && every.length) goTo(every[(place + to + every.length) % every.length]);
  else if (event.key === "Home") goTo(every[0]);
  else if (event.key === "End") goTo(every.at(-1));
  else if (event.key === "Enter" && current?.isConnected) changePart(current);
  else return;
  event.preventDefault();
});
at("picture").addEventListener("blur", () => goTo(null));
at("picture").addEventListener("click", (event) => {
  const part = event.target.closest("[data-role]");
  if (part && !["paper", "grid"].includes(part.dataset.role)) changePart(part);
  else light(-1);
});

// Categories and series are dragged to their place, notes to a mark or corner, legends to a side.
function placesAlong(role, name) {
  const found = new Map();
  for (const one of at("picture").querySelectorAll(`[data-role="${role}"][data-${name}]`)) {
    const box = one.getBoundingClientRect(), code = one.dataset[name];
    if (!found.has(code)) found.set(code, { x: box.left + box.width / 2, y: box.top + box.height / 2 });
  }
  return found;
}

function dropLevel(part, level, event) {
  const role = part.dataset.role, name = level.role, places = [...placesAlong(role, name)];
  const spread = (axis) => Math.max(...places.map(([, one]) => one[axis])) - Math.min(...places.map(([, one]) => one[axis]));
  const axis = spread("x") > spread("y") ? "x" : "y", at_ = axis === "x" ? event.clientX : event.clientY;
  const plain = level.column.levels.filter((one) => one.plain), from = plain.findIndex((one) => one.code === level.code);
  const stands = places.filter(([code]) => code !== part.dataset[name]).sort((one, other) => one[1][axis] - other[1][axis]);
  let to = stands.filter(([, one]) => one[axis] < at_).length;
  const first = plain.findIndex((one) => one.code === places.sort((one, other) => one[1][axis] - other[1][axis])[0][0].split("/").pop());
  if (first > 0 && first === plain.length - 1) to = plain.length - 1 - to; // drawn the other way round
  if (to !== from) ordered(level, from, to);
}

function dropLegend(event) {
  const box = at("picture").getBoundingClientRect();
  const sides = { top: event.clientY - box.top, bottom: box.bottom - event.clientY, right: box.right - event.clientX };
  const [side] = Object.entries(sides).sort((one, other) => one[1] - other[1])[0];
  setOne("legend", side);
}

function dropNote(part, event) {
  const list = listOf("annotation"), which = list.findIndex((one) => one.includes(textOf(part)));
  if (which < 0) return;
  const text = list[which].split(": ").slice(1).join(": ");
  const mark = document.elementsFromPoint(event.clientX, event.clientY).find((one) => MARKS.includes(one.dataset?.role) && one !== part);
  const box = at("picture").getBoundingClientRect();
  const corner = `${event.clientY < box.top + box.height / 2 ? "top" : "bottom"}-${event.clientX < box.left + box.width / 2 ? "left" : "right"}`;
  const target = mark ? namesOf(mark).map(quoted).join(", ") : corner;
  setOne("annotation", list.map((one, number) => (number === which ? `${target}: ${text}` : one)));
}

function makeDraggable() {
  for (const part of at("picture").querySelectorAll('[data-role="category"], [data-role="legend"], [data-role="annotation"]')) {
    const role = part.dataset.role, level = role === "annotation" ? null : levelOf(part, role === "category" ? "category" : null);
    if (role !== "annotation" && (!level?.plain || !optionNamed(ORDER[level.role]))) continue;
    draggable(part, {
      over: () => null,
      moved: (event, start) => { part.style.transform = `translate(${(event.clientX - start.clientX) * scaleOf()}px, ${(event.clientY - start.clientY) * scaleOf()}px)`; },
      drop: (_, event, start) => {
        part.style.transform = "";
        const far = role === "legend" && Math.abs(event.clientY - start.clientY) > 60;
        if (role === "annotation") dropNote(part, event);
        else if (far && optionNamed("legend")) dropLegend(event);
        else dropLevel(part, level, event);
      },
    });
  }
}

function scaleOf() {
  const svg = at("picture").querySelector("svg");
  return svg.viewBox.baseVal.width / svg.getBoundingClientRect().width;
}

function showRuler() {
  const [wide, high] = answer.drawn.size, sheet = at("sheet");
  at("wide").hidden = at("tall").hidden = !wide;
  if (!wide) { sheet.style.width = "100%"; return; }
  const room = at("stage").clientWidth - 44, tall = Math.max(260, innerHeight - 330);
  sheet.style.width = `${Math.min(room, (tall * wide) / high)}px`;
  at("wide").textContent = `${Math.round(wide)} mm`;
  at("tall").textContent = String(Math.round(high));
  const left = sheet.offsetLeft;
  Object.assign(at("wide").style, { left: `${left + sheet.offsetWidth - 46}px`, top: `${sheet.offsetHeight + 1}px` });
  Object.assign(at("tall").style, { left: `${left - 24}px`, top: `${sheet.offsetHeight - 16}px` });
}

function showFigures() {
  const figures = answer.drawn.figures;
  if (!figures) return;
  const head = made("thead", {}, made("tr", {}, ...figures.heading.map((textContent) => made("th", { textContent, attributes: { scope: "col" } }))));
  const body = made("tbody", {}, ...figures.rows.map((row, place) => {
    const names = figures.columns.length;
    const cells = row.texts.map((textContent, number) => made(number < names ? "th" : "td", { textContent, ...(number < names ? { attributes: { scope: "row" } } : {}) }));
    return made("tr", { onclick: () => light(place), onpointerenter: () => light(place) }, ...cells);
  }));
  at("figures").replaceChildren(made("table", {}, head, body));
}

onAnswer(() => {
  const drawn = answer.drawn;
  if (!drawn || drawn.fault) return; // what was drawn before stays
  current = null;
  at("ring").hidden = true;
  at("picture").innerHTML = drawn.picture;
  showRuler();
  showFigures();
  makeDraggable();
});
addEventListener("resize", () => { if (answer?.drawn?.picture) showRuler(); });
