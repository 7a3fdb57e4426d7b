// The columns of the records at the left, and what each is used for: dragged, or chosen from a menu.
import { answer, at, begin, listOf, made, onAnswer, optionNamed, set, setOne, valueOf } from "./page.js";
import { closeMenu, openMenu } from "./menu.js";

const SLOTS = [
  ["by", "Categories", "all records"], ["split", "Series", "drop a column"], ["panel", "Panels", "drop a column"],
  ["measure", "Measure", "count of records"], ["only", "Only", "everybody"], ["weight", "Weight", ""],
];
const columnNamed = (name) => begin.listing.columns.find((one) => one.name === name);
const labelOf = (name) => columnNamed(name)?.label ?? name;

function usedAs(slot) {
  if (slot !== "only") return listOf(slot);
  return listOf("only").map((one) => one.split(/!?=/)[0]);
}

function use(name, slot) {
  if (slot === "only") return openLevels(name);
  const option = optionNamed(slot), now = listOf(slot);
  if (!option || now.includes(name)) return undefined;
  const from = SLOTS.map(([one]) => one).find((one) => one !== slot && one !== "only" && listOf(one).includes(name));
  const next = slot === "by" && now.length < 2 && !from ? [...now.filter((one) => one !== "."), name] : [name];
  const options = { [slot]: option.form === "list" ? next : name };
  if (from) options[from] = listOf(from).filter((one) => one !== name);
  if (slot === "by" && now.length && from) options[from] = optionNamed(from)?.form === "list" ? now : now[0]; // they change places
  return set(options);
}

function leave(name, slot) {
  const option = optionNamed(slot), now = listOf(slot);
  if (slot === "only") return setOne("only", now.filter((one) => one.split(/!?=/)[0] !== name));
  return setOne(slot, option.form === "list" ? now.filter((one) => one !== name) : null);
}

function openLevels(name, beside = at("slots")) {
  const column = columnNamed(name);
  const input = made("input", { type: "text", className: "wide", placeholder: "the levels that are kept", attributes: { "aria-label": `Levels of ${column.label}` } });
  const shown = column.levels.slice(0, 14).map(([, label]) => made("button", {
    textContent: label,
    onclick: () => { input.value = input.value ? `${input.value}, ${label}` : label; input.focus(); },
  }));
  const done = () => {
    closeMenu();
    const others = listOf("only").filter((one) => one.split(/!?=/)[0] !== name);
    if (input.value.trim()) setOne("only", [...others, `${name}=${input.value.trim()}`]);
  };
  input.onkeydown = (event) => { if (event.key === "Enter") done(); };
  openMenu(beside, made("b", { textContent: `Only, by ${column.label}` }), ...shown, input, made("button", { textContent: "Keep these", onclick: done }));
}

function openColumn(button, column) {
  const choices = SLOTS.filter(([slot]) => optionNamed(slot)).map(([slot, words]) => {
    const used = usedAs(slot).includes(column.name);
    return made("button", {
      textContent: used ? `${words} ✓` : words,
      onclick: () => { closeMenu(); if (used) leave(column.name, slot); else use(column.name, slot); },
    });
  });
  openMenu(button, made("b", { textContent: `${column.label} as` }), ...choices);
}

// Something is pressed, moved and let go: `over` gives what it is over, `drop` takes it.
export function draggable(one, { over, drop, moved }) {
  one.addEventListener("pointerdown", (start) => {
    if (start.button !== 0) return;
    let dragging = false, target = null;
    const move = (event) => {
      if (!dragging && Math.hypot(event.clientX - start.clientX, event.clientY - start.clientY) < 6) return;
      dragging = true;
      one.classList.add("dragged");
      const next = over(event);
      if (next !== target) { target?.classList?.remove("over"); next?.classList?.add("over"); target = next; }
      moved?.(event, start);
    };
    const end = (event) => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", end);
      one.classList.remove("dragged");
      target?.classList?.remove("over");
      if (!dragging) return;
      const swallow = (click) => { click.stopPropagation(); click.preventDefault(); };
      addEventListener("click", swallow, { capture: true }); // that of letting go, and no later one
      setTimeout(() => removeEventListener("click", swallow, { capture: true }), 0);
      drop(target, event, start);
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", end);
  });
}

function showColumns() {
  const { listing } = begin;
  at("file").textContent = `${begin.file} · ${listing.complete ? "" : "first "}${listing.records.toLocaleString("en")} records`;
  const used = new Set(SLOTS.flatMap(([slot]) => usedAs(slot)));
  at("columns").replaceChildren(...listing.columns.map((column) => {
    const most = Math.max(1, ...column.bars);
    const bars = made("span", { className: "bars", title: column.levels.map(([, label], place) => `${label}: ${column.bars[place] ?? ""}`).slice(0, 12).join("\n") },
      ...column.bars.map((count) => { const bar = made("i"); bar.style.height = `${Math.max(1, (22 * count) / most)}px`; return bar; }));
    const about = column.kind === "number" ? column.about : column.kind === "text" ? column.about : `${column.about} levels`;
    const button = made("button", { className: used.has(column.name) ? "column used" : "column", attributes: { "aria-haspopup": "dialog" } },
      made("span", {}, made("b", { textContent: column.label }), made("small", { textContent: `${column.kind} · ${about}` })), bars);
    button.onclick = () => openColumn(button, column);
    draggable(button, {
      over: (event) => document.elementFromPoint(event.clientX, event.clientY)?.closest(".slot") ?? null,
      drop: (slot) => { if (slot) use(column.name, slot.dataset.slot); },
    });
    return button;
  }));
}

function showSlots() {
  at("slots").replaceChildren(...SLOTS.filter(([slot]) => optionNamed(slot)).flatMap(([slot, words, empty]) => {
    const chips = usedAs(slot).filter((name) => name !== ".").map((name) => {
      const chip = made("button", { className: "chip", textContent: labelOf(name), title: "Press to take it out", attributes: { "aria-label": `Take ${labelOf(name)} out of ${words}` } });
      chip.onclick = () => leave(name, slot);
      draggable(chip, {
        over: (event) => document.elementFromPoint(event.clientX, event.clientY)?.closest(".slot") ?? null,
        drop: (target) => { if (target && target.dataset.slot !== slot) use(name, target.dataset.slot); else if (!target) leave(name, slot); },
      });
      return chip;
    });
    const design = slot === "weight" && !chips.length ? (valueOf("no_design") ? "none" : "as the codebook") : empty;
    const box = made("div", { className: chips.length ? "slot full" : "slot", data: { slot } }, ...(chips.length ? chips : [design]));
    return [made("span", { textContent: words }), box];
  }));
}

onAnswer(() => { if (answer) { showSlots(); showColumns(); } });
