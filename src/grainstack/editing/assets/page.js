// What all parts of the page share: what the program reply last, and how it is asked for more.
export const at = (id) => document.getElementById(id);
export const begin = {}; // what does not change while the page is open, and the columns and entries as they are
export let answer = null; // what is shown
let asked = 0;
const listeners = [];

export function made(tag, values = {}, ...children) {
  const { data, attributes, ...plain } = values;
  const one = Object.assign(document.createElement(tag), plain);
  Object.assign(one.dataset, data ?? {});
  for (const [name, value] of Object.entries(attributes ?? {})) one.setAttribute(name, value);
  one.append(...children.filter((child) => child !== null && child !== undefined));
  return one;
}

export const spoken = (name) => name.charAt(0).toUpperCase() + name.slice(1).replaceAll("_", " ");
export const kindNow = () => begin.kinds.find((one) => one.name === answer.state.kind);
export const optionNamed = (name) => kindNow().options.find((one) => one.name === name);
export const valueOf = (name) => answer.state.values[name];
export const listOf = (name) => [valueOf(name) ?? []].flat();
export const quoted = (name) => (/[",;:=]/.test(name) ? `"${name.replaceAll('"', '""')}"` : name);
export const hear = (words) => { at("heard").textContent = words; };

export function onAnswer(listener) {
  listeners.push(listener);
}

export function tellFault(text, ...more) {
  at("fault").hidden = !text;
  at("fault").replaceChildren(text ?? "", ...more);
}

async function sent(what, content) {
  const reply = await fetch(`/do/${what}`, { method: "POST", body: JSON.stringify(content) });
  if (!reply.ok) throw new Error(String(reply.status));
  return reply.json();
}

// Asks for something that changes nothing on the page by itself.
export async function ask(what, content = {}) {
  try {
    const reply = await sent(what, content);
    if (reply.fault) tellFault(reply.fault);
    return reply;
  } catch {
    tellFault("The program does not answer. Start grainstack edit again.");
    return { fault: true };
  }
}

// Asks for a change and shows what follows; the last answer wins.
export async function act(what, content = {}) {
  const turn = ++asked;
  at("picture").classList.add("waiting");
  const reply = await ask(what, content);
  if (turn !== asked) return reply;
  at("picture").classList.remove("waiting");
  if (reply.fault) return reply;
  for (const name of ["listing", "file", "plan", "entries", "faults", "reports"]) if (name in reply) begin[name] = reply[name];
  const next = reply.answer ?? reply;
  if (next.state) show(next);
  return reply;
}

export function show(next) {
  answer = next;
  if (next.message) hear(next.message);
  for (const listener of listeners) listener(next);
}

export function set(options, kind = null) {
  return act("change", { change: { options, kind } });
}

export function setOne(name, value) {
  return set({ [name]: Array.isArray(value) && !value.length ? null : value });
}

export async function pictureOf(of, name) {
  try {
    const reply = await fetch(`/picture/${of}/${encodeURIComponent(name)}`);
    return reply.ok ? await reply.json() : {};
  } catch {
    return {};
  }
}

export function asImage(svg, words) {
  if (!svg || !svg.startsWith("<svg")) return null;
  return made("img", { src: URL.createObjectURL(new Blob([svg], { type: "image/svg+xml" })), alt: words });
}

export async function copied(text, words) {
  try {
    await navigator.clipboard.writeText(text);
    hear(words);
  } catch {
    tellFault("The browser lets nothing be copied. Mark it and copy it by hand.");
  }
}
