"use strict";
// The page holds one wish: a kind and the options that are not at their default. Each change asks the program to draw it.
const at = (id) => document.getElementById(id);
const USES = { by: "categories", split: "series", panel: "panels", measure: "measure", weight: "weight" };
// What is clicked in the picture, and the option that changes it.
const CHANGES = {
  title: "title", subtitle: "subtitle", footnote: "footnote", source: "source", "value-title": "value_title",
  "category-title": "category_title", tick: "value_range", category: "order", "group-label": "order", legend: "legend",
  "legend-swatch": "color", bar: "highlight", dot: "highlight", slice: "set_apart", tile: "color", value: "label",
  whisker: "error_bars", "panel-title": "panel_order", reference: "reference", annotation: "annotation", span: "span",
};
const SIZES = {
  "": "size as the style", "160x100mm": "report column", "170x240mm": "full page", "254x143mm": "slide",
  "80x60mm": "two columns", "70x105mm": "phone",
};
let wish = BEGIN.wish, past = [], future = [], asked = 0;

function made(tag, values = {}, ...children) {
  const one = Object.assign(document.createElement(tag), values);
  one.append(...children);
  return one;
}

const copied = (one) => JSON.parse(JSON.stringify(one));
const kindNow = () => BEGIN.kinds.find((one) => one.name === wish.kind);
const optionOf = (name) => kindNow().options.find((one) => one.name === name);

async function post(path, content) {
  const answer = await fetch(path, { method: "POST", headers: { "X-Key": KEY }, body: JSON.stringify(content) });
  return answer.json();
}

function change(next) {
  past.push(copied(wish));
  future = [];
  wish = next;
  show();
}

function set(name, value) {
  const next = copied(wish);
  const empty = value === "" || value === false || value === null || (Array.isArray(value) && !value.length);
  if (empty) delete next.values[name];
  else next.values[name] = value;
  if (JSON.stringify(next) !== JSON.stringify(wish)) change(next);
}

function step(from, to) {
  if (!from.length) return;
  to.push(copied(wish));
  wish = from.pop();
  show();
}

async function draw() {
  closeOver();
  const turn = ++asked;
  at("picture").classList.add("waiting");
  let told;
  try {
    told = await post("/draw", wish);
  } catch {
    told = { fault: "The program has ended. Start grainstack edit again." };
  }
  if (turn !== asked) return; // a later change is on its way: the last answer wins
  at("picture").classList.remove("waiting");
  at("fault").hidden = !told.fault;
  at("fault").textContent = told.fault || "";
  for (const button of at("kinds").children) {
    const reason = (told.unsuited || {})[button.value];
    button.classList.toggle("unsuited", Boolean(reason));
    button.title = reason || button.dataset.about;
  }
  if (told.fault) return; // what was drawn before stays
  at("picture").innerHTML = told.picture;
  at("told").replaceChildren(...told.told.map((text) => made("li", { textContent: text })));
  at("command").textContent = told.command;
  at("entry").textContent = told.entry;
}

function listed(text) {
  return text.split("\n").map((one) => one.trim()).filter(Boolean);
}

function field(option) {
  const given = wish.values[option.name];
  const label = made("label", { title: option.help });
  label.dataset.option = option.name;
  label.classList.toggle("given", given !== undefined);
  const name = made("span", { textContent: option.name.replaceAll("_", " ") });
  let input;
  if (option.form === "switch") {
    label.classList.add("switch");
    input = made("input", { type: "checkbox", checked: Boolean(given) });
    input.onchange = () => set(option.name, input.checked);
    label.append(input, name);
    return label;
  }
  if (option.form === "choice") {
    input = made("select", {}, made("option", { value: "", textContent: option.default ?? "" }));
    input.append(...option.choices.map((one) => made("option", { value: one, textContent: one })));
    input.value = given ?? "";
    input.onchange = () => set(option.name, input.value);
  } else if (option.form === "list" && !option.columns) {
    input = made("textarea", { rows: 1, value: [given ?? []].flat().join("\n"), placeholder: option.hint });
    input.style.width = "100%";
    input.onchange = () => set(option.name, listed(input.value));
  } else {
    const number = option.form === "number";
    input = made("input", { type: number ? "number" : "text", step: "any", placeholder: option.hint || "" });
    input.value = [given ?? ""].flat().join(", ");
    if (option.columns) input.setAttribute("list", "names");
    input.onchange = () => {
      const text = input.value.trim();
      if (number) set(option.name, text === "" ? "" : Number(text));
      else set(option.name, option.form === "list" ? text.split(",").map((one) => one.trim()).filter(Boolean) : text);
    };
  }
  label.append(name, input);
  return label;
}

function showOptions() {
  const search = at("search"), words = search.value.toLowerCase().split(/\s+/).filter(Boolean);
  const open = new Set([...document.querySelectorAll("#options details[open]")].map((one) => one.dataset.group));
  const groups = new Map();
  for (const option of kindNow().options) {
    const text = `${option.name.replaceAll("_", " ")} ${option.help} ${option.group}`.toLowerCase();
    if (!words.every((word) => text.includes(word))) continue;
    if (!groups.has(option.group)) groups.set(option.group, []);
    groups.get(option.group).push(option);
  }
  const parts = [...groups].map(([group, options]) => {
    const isGiven = options.some((one) => wish.values[one.name] !== undefined);
    const part = made("details", { open: open.has(group) || words.length > 0 || isGiven });
    part.dataset.group = group;
    part.append(made("summary", { textContent: group }), made("fieldset", {}, ...options.map(field)));
    return part;
  });
  at("options").replaceChildren(search, ...parts);
}

function showColumns() {
  at("columns").replaceChildren(...BEGIN.columns.map((column) => {
    const most = Math.max(1, ...column.levels.map(([, count]) => count));
    const bars = made("div", { className: "bars", title: column.levels.map(([name, count]) => `${name}: ${count}`).join("\n") });
    bars.append(...column.levels.map(([, count]) => {
      const bar = made("i");
      bar.style.height = `${Math.max(1, (18 * count) / most)}px`;
      return bar;
    }));
    const uses = made("div", { className: "uses" });
    for (const [name, words] of Object.entries(USES)) {
      const option = optionOf(name);
      if (!option) continue;
      const now = [wish.values[name] ?? []].flat(), used = now.includes(column.name);
      const button = made("button", { textContent: words });
      button.setAttribute("aria-pressed", String(used));
      button.setAttribute("aria-label", `${column.label} as ${words}`);
      button.onclick = () => {
        const many = option.form === "list" && name === "by";
        const next = used ? now.filter((one) => one !== column.name) : many ? [...now, column.name] : [column.name];
        set(name, option.form === "list" ? next : next[0] ?? "");
      };
      uses.append(button);
    }
    const one = made("div", { className: "column" });
    one.append(made("b", { textContent: column.label }), " ", made("small", { textContent: column.kind }));
    if (column.levels.length) one.append(bars);
    one.append(uses);
    return one;
  }));
}

function show() {
  at("kinds").replaceChildren(...BEGIN.kinds.map((kind) => {
    const button = made("button", { textContent: kind.name, value: kind.name, title: kind.about });
    button.dataset.about = kind.about;
    button.setAttribute("aria-pressed", String(kind.name === wish.kind));
    button.onclick = () => {
      const known = new Set(kind.options.map((one) => one.name));
      const kept = Object.entries(wish.values).filter(([name]) => known.has(name));
      change({ kind: kind.name, values: Object.fromEntries(kept) });
    };
    return button;
  }));
  const own = wish.values.size ?? "";
  at("size").replaceChildren(...Object.entries(own in SIZES ? SIZES : { ...SIZES, [own]: own }).map(
    ([value, textContent]) => made("option", { value, textContent }),
  ));
  at("size").value = own;
  at("undo").disabled = !past.length;
  at("redo").disabled = !future.length;
  const focused = document.activeElement?.closest("label")?.dataset.option;
  showColumns();
  showOptions();
  if (focused) [...document.querySelectorAll("#options label")].find((one) => one.dataset.option === focused)?.querySelector("input, select, textarea")?.focus();
  draw();
}

function reveal(name) {
  if (!optionOf(name)) return;
  at("search").value = "";
  showOptions();
  const label = [...document.querySelectorAll("#options label")].find((one) => one.dataset.option === name);
  label.closest("details").open = true;
  label.scrollIntoView({ block: "center" });
  label.querySelector("input, select, textarea").focus();
}

const WORDS = ["title", "subtitle", "footnote", "source", "value-title", "category-title"]; // typed where they stand
const FILLED = ["bar", "dot", "slice", "tile", "box", "legend-swatch"];

function closeOver() {
  at("over").hidden = true;
  at("over").replaceChildren();
}

function openOver(part, ...content) {
  const box = part.getBoundingClientRect(), over = at("over");
  over.replaceChildren(...content);
  over.hidden = false;
  over.style.left = `${Math.max(8, Math.min(box.left, innerWidth - over.offsetWidth - 12)) + scrollX}px`;
  over.style.top = `${Math.min(box.bottom + 4, innerHeight - over.offsetHeight - 12) + scrollY}px`;
  over.querySelector("input, button")?.focus();
}

// The name of the level that a mark shows, as the picture writes it, and the option that names its column.
function levelOf(part) {
  const { series, category } = part.dataset;
  const written = (role, name, code) =>
    [...document.querySelectorAll(`#picture [data-role="${role}"][data-${name}="${CSS.escape(code)}"]`)].map((one) => one.firstChild.textContent).join(" ");
  const named = series && written("legend", "series", series);
  if (named) return { name: named, column: wish.values.split };
  const own = category && (written("category", "category", category) || written("slice-label", "category", category));
  return own ? { name: own, column: [wish.values.by ?? []].flat().at(-1) } : null;
}

function colored(level, color) {
  const others = [wish.values.color ?? []].flat().filter((one) => !one.startsWith(`${level}=`));
  set("color", [...others, `${level}=${color}`]);
}

function openLevel(part, level) {
  const swatches = made("div", { className: "swatches" });
  for (const color of BEGIN.colors) {
    const one = made("button", { title: color, onclick: () => (closeOver(), colored(level.name, color)) });
    one.style.background = color;
    one.setAttribute("aria-label", `${level.name} in ${color}`);
    swatches.append(one);
  }
  const any = made("input", { type: "color", value: part.getAttribute("fill") || "#000000", title: "Any colour" });
  any.onchange = () => (closeOver(), colored(level.name, any.value));
  const kept = (wish.values.highlight ?? "").split(",").map((one) => one.trim()).filter(Boolean);
  const next = kept.includes(level.name) ? kept.filter((one) => one !== level.name) : [...kept, level.name];
  const mark = made("button", { textContent: kept.includes(level.name) ? "No highlight" : "Highlight" });
  mark.onclick = () => (closeOver(), set("highlight", next.join(", ")));
  const drop = made("button", { textContent: "Leave out" });
  drop.onclick = () => (closeOver(), set("except", [...(wish.values.except ?? []), `${level.column}=${level.name}`]));
  const fitting = [any, ...(optionOf("highlight") ? [mark] : []), ...(level.column ? [drop] : [])];
  openOver(part, made("b", { textContent: level.name }), swatches, ...fitting.flatMap((one) => [one, " "]));
}

// The levels in the order in which they stand, by what is written of them.
function standing(role, name) {
  const found = new Map();
  for (const one of document.querySelectorAll(`#picture [data-role="${role}"]`)) {
    const code = one.dataset[name], text = one.firstChild.textContent;
    if (code !== undefined) found.set(code, found.has(code) && role === "category" ? `${found.get(code)} ${text}` : text);
  }
  return found;
}

const quoted = (name) => (/[",;]/.test(name) ? `"${name.replaceAll('"', '""')}"` : name);

function openOrder(part, option, name) {
  const levels = standing(part.dataset.role, name), codes = [...levels.keys()], place = codes.indexOf(part.dataset[name]);
  const moved = (by) => {
    const next = [...codes];
    next.splice(place + by, 0, ...next.splice(place, 1));
    return next.map((code) => quoted(levels.get(code))).join(", ");
  };
  const button = (text, value, disabled) =>
    made("button", { textContent: text, disabled, onclick: () => (closeOver(), set(option, value)) });
  const rules = ["largest-first", "smallest-first", "alphabetical", "codebook"].map((rule) => button(rule, rule, false));
  const steps = [
    button("Earlier", place > 0 ? moved(-1) : "", place < 1),
    button("Later", place < codes.length - 1 ? moved(1) : "", place >= codes.length - 1),
  ];
  openOver(part, made("b", { textContent: levels.get(codes[place]) }), ...[...steps, ...rules].flatMap((one) => [one, " "]));
}

function openWords(part, name) {
  const lines = [...document.querySelectorAll(`#picture [data-role="${part.dataset.role}"]`)];
  const now = wish.values[name] ?? lines.map((one) => one.firstChild.textContent).join(" ");
  const input = made("input", { type: "text", value: now });
  input.setAttribute("aria-label", name.replaceAll("_", " "));
  const done = () => { const value = input.value.trim(); closeOver(); if (value !== now) set(name, value || "none"); };
  input.onkeydown = (event) => {
    if (event.key === "Enter") done();
    if (event.key === "Escape") closeOver();
  };
  openOver(part, input);
  input.select();
}

at("picture").onclick = (event) => {
  closeOver();
  const part = event.target.closest("[data-role]"), role = part?.dataset.role, name = CHANGES[role];
  if (!part || !name || !optionOf(name)) return;
  const level = FILLED.includes(role) && optionOf("color") ? levelOf(part) : null;
  const nested = (part.dataset.category ?? "").includes("/");
  if (role === "category" && !nested && part.dataset.category) openOrder(part, "order", "category");
  else if (role === "legend" && part.dataset.series && optionOf("split_order")) openOrder(part, "split_order", "series");
  else if (WORDS.includes(role) && role !== "footnote") openWords(part, name);
  else if (level) openLevel(part, level);
  else reveal(name);
};
document.addEventListener("keydown", (event) => { if (event.key === "Escape") closeOver(); });
at("size").onchange = () => set("size", at("size").value);
at("undo").onclick = () => step(past, future);
at("redo").onclick = () => step(future, past);
at("search").oninput = () => { showOptions(); at("search").focus(); };
document.addEventListener("keydown", (event) => {
  if (!(event.ctrlKey || event.metaKey) || /INPUT|TEXTAREA/.test(event.target.tagName)) return;
  if (event.key === "z") step(past, future);
  else if (event.key === "y") step(future, past);
  else return;
  event.preventDefault();
});
at("save").onclick = async () => {
  const told = await post("/save", { ...wish, plan: at("plan").value || "plan.toml", name: at("name").value });
  at("fault").hidden = !told.fault;
  at("fault").textContent = told.fault || "";
  if (told.told) at("told").prepend(made("li", { textContent: told.told }));
};
[at("plan").value, at("name").value] = BEGIN.plan;
at("names").append(...BEGIN.columns.map((one) => made("option", { value: one.name })));
show();
