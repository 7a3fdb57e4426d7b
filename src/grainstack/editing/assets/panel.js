// The options that act on this chart, group by group; those changed first. They are those of the command, listed by it.
import { answer, ask, at, begin, kindNow, listOf, made, onAnswer, optionNamed, set, setOne, spoken, valueOf } from "./page.js";

const open = new Set();
const LATE = ["Records", "Survey design", "Language"]; // groups that few charts change
let found = null; // names by the words of the search; null for no search

const acts = (option) => !option.needs.length || option.needs.some((name) => valueOf(name) !== undefined) || valueOf(option.name) !== undefined;
const listed = (text) => text.split("\n").map((one) => one.trim()).filter(Boolean);

function shortOf(option) {
  const value = valueOf(option.name);
  if (value === true) return "on";
  return value === undefined ? "" : [value].flat().join(", ");
}

function field(option) {
  const given = valueOf(option.name);
  const name = made("span", { textContent: spoken(option.name) });
  const help = made("span", { className: "help", textContent: option.help, id: `help-${option.name}` });
  const tag = option.form === "choice" && option.choices.join("  ").length <= 24 ? "div" : "label";
  const row = made(tag, { className: `row${given === undefined ? "" : " given"}`, data: { option: option.name } }, name);
  let input;
  if (option.form === "switch") {
    input = made("input", { type: "checkbox", checked: Boolean(given) });
    input.onchange = () => setOne(option.name, input.checked);
  } else if (tag === "div") {
    const now = given ?? option.default;
    input = made("span", { className: "choices", attributes: { role: "group", "aria-label": spoken(option.name) } }, ...option.choices.map((one) => {
      const button = made("button", { textContent: one, attributes: { "aria-pressed": String(one === now) } });
      button.onclick = () => setOne(option.name, one === option.default ? null : one);
      return button;
    }));
  } else if (option.form === "choice") {
    input = made("select", {}, made("option", { value: "", textContent: option.default ?? "–" }));
    input.append(...option.choices.filter((one) => one !== option.default).map((one) => made("option", { value: one, textContent: one })));
    input.value = given ?? "";
    input.onchange = () => setOne(option.name, input.value);
  } else if (option.form === "list" && !option.columns) {
    input = made("textarea", { rows: Math.max(1, listOf(option.name).length), value: listOf(option.name).join("\n"), placeholder: option.hint });
    input.onchange = () => setOne(option.name, listed(input.value));
  } else {
    const number = option.form === "number";
    input = made("input", { type: number ? "number" : "text", step: "any", placeholder: String(option.default ?? option.hint ?? "") });
    input.value = listOf(option.name).join(", ");
    if (option.columns) input.setAttribute("list", "names");
    input.onchange = () => {
      const text = input.value.trim();
      if (number) setOne(option.name, text === "" ? null : Number(text));
      else setOne(option.name, option.form === "list" ? text.split(",").map((one) => one.trim()).filter(Boolean) : text);
    };
  }
  input.setAttribute("aria-describedby", help.id);
  row.append(input, help);
  return row;
}

function group(title, options, isOpen) {
  const part = made("details", { open: isOpen, data: { group: title } });
  const short = options.map(shortOf).filter(Boolean).join(", ");
  part.append(made("summary", {}, made("span", { textContent: title }), made("span", { textContent: short.slice(0, 26) })));
  const fill = () => { if (part.open && part.children.length === 1) part.append(...options.map(field)); };
  part.ontoggle = () => { fill(); if (part.open) open.add(title); else open.delete(title); };
  fill();
  return part;
}

export function showOptions() {
  const options = kindNow().options, box = at("options");
  const focused = document.activeElement?.closest?.("[data-option]")?.dataset.option;
  at("changed").hidden = at("advice").hidden = Boolean(found);
  if (found) {
    const rows = found.map((name) => options.find((one) => one.name === name)).filter(Boolean).map(field);
    rows.forEach((row) => row.classList.add("found"));
    box.replaceChildren(...(rows.length ? rows : [made("p", { textContent: "Nothing is called so here. Try another word." })]));
    return;
  }
  const changed = options.filter((one) => valueOf(one.name) !== undefined && !["by", "split", "panel", "measure"].includes(one.name));
  const groups = new Map();
  for (const option of options.filter(acts)) groups.set(option.group, [...(groups.get(option.group) ?? []), option]);
  const names = [...groups.keys()].sort((one, other) => LATE.includes(one) - LATE.includes(other));
  const parts = names.map((title) => group(title, groups.get(title), open.has(title)));
  at("changed").replaceChildren(...(changed.length ? [made("h2", { textContent: "Changed here" }), ...changed.map(field)] : []));
  box.replaceChildren(made("h2", { textContent: "Everything" }), ...parts);
  if (focused) at("right").querySelector(`[data-option="${focused}"] :is(input, select, textarea, button)`)?.focus();
}

// Leads to an option, wherever it stands.
export function reveal(name) {
  const option = optionNamed(name);
  if (!option) return;
  found = null;
  at("search").value = "";
  open.add(option.group);
  showOptions();
  const rows = at("options").querySelectorAll(`[data-option="${name}"]`), row = rows[rows.length - 1];
  row.scrollIntoView({ block: "center" });
  row.querySelector("input, select, textarea, button").focus();
}

async function search() {
  const words = at("search").value.trim().toLowerCase();
  if (!words) { found = null; showOptions(); return; }
  const parts = words.split(/\s+/);
  const text = (one) => `${one.name.replaceAll("_", " ")} ${one.help} ${one.group} ${one.choices.join(" ")}`.toLowerCase();
  const plain = kindNow().options.filter((one) => parts.every((part) => text(one).includes(part))).map((one) => one.name);
  const meant = (await ask("find", { words })).found ?? [];
  if (at("search").value.trim().toLowerCase() !== words) return;
  const byName = plain.sort((one, other) => other.includes(words.replaceAll(" ", "_")) - one.includes(words.replaceAll(" ", "_")));
  found = [...new Set([...meant.map(([name]) => name), ...byName])].slice(0, 14);
  showOptions();
}

// A button that does what is proposed and shows the difference, or leads to the option where its value is left open.
export function proposal([name, value]) {
  const option = optionNamed(name);
  if (name !== "kind" && !option) return null;
  const open_ = name !== "kind" && (value === null || /^[A-Z]+$/.test(value)); // what is left open may be to leave it out
  const words = open_ ? `${spoken(name)} …` : name === "kind" ? spoken(value) : `${spoken(name)}: ${value}`;
  const button = made("button", { textContent: words });
  button.onclick = async () => {
    if (open_) { reveal(name); return; }
    const before = answer.number, number = option?.form === "number" ? Number(value) : value;
    if (name === "kind") await set({}, value);
    else await setOne(name, option.form === "list" ? [...listOf(name), value] : number);
    dispatchEvent(new CustomEvent("changed-by-advice", { detail: { before, words } }));
  };
  return button;
}

function showAdvice() {
  const notes = answer.drawn?.notes ?? [];
  at("advice").replaceChildren(...notes.map((note) => {
    const piece = made("div", { className: note.name ? "piece" : "piece note" }, note.text.charAt(0).toUpperCase() + note.text.slice(1));
    if (!note.name) return piece;
    const deeds = made("div");
    deeds.append(...note.proposed.map(proposal).filter(Boolean));
    const quiet = made("button", { textContent: "Leave it" });
    quiet.onclick = () => piece.remove();
    deeds.append(quiet);
    piece.append(deeds);
    return piece;
  }));
}

at("search").oninput = search;
onAnswer(() => { showOptions(); showAdvice(); });
