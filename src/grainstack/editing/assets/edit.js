// The page of one sitting: everything around the chart. Each change is one of the command's options, drawn by it.
import { act, answer, asImage, ask, at, begin, copied, hear, made, onAnswer, optionNamed, pictureOf, setOne, show, tellFault } from "./page.js";
import { closeMenu, openMenu } from "./menu.js";
import "./columns.js";
import { proposal } from "./panel.js";
import "./picture.js";

let turn = 0; // of the small pictures: those of an earlier state are of no use
const smalls = new Map(); // the small picture of each entry

function smallOf(title) {
  return made("span", { className: "small", title });
}

function showForms() {
  const { drawn, form, best } = answer;
  const kept = new Map([...at("forms").children].map((one) => [one.value, one.querySelector(".small")]));
  at("forms").replaceChildren(...begin.forms.map((one) => {
    const picture = kept.get(one.name) ?? smallOf("");
    const button = made("button", { className: "form", value: one.name, title: one.about, attributes: { "aria-pressed": String(one.name === form) } },
      picture, made("span", { textContent: one.name, className: one.name === best ? "best" : "" }));
    button.onclick = () => act("form", { name: one.name });
    return button;
  }));
  const now = begin.forms.find((one) => one.name === form), better = begin.forms.find((one) => one.name === best);
  at("why").textContent = better && best !== form && answer.state.kind !== "table" ? `${best} may suit better: ${better.about}` : (now?.about ?? "");
  if (drawn) drawForms();
}

async function drawForms() {
  const mine = ++turn;
  await new Promise((done) => setTimeout(done, 250)); // somebody who goes on changing waits for nothing
  for (const button of [...at("forms").children]) {
    if (mine !== turn) return;
    const { picture, reason } = await pictureOf("form", button.value);
    if (mine !== turn) return;
    button.classList.toggle("unsuited", Boolean(reason));
    if (reason) button.title = reason;
    const image = asImage(picture, "");
    const box = button.querySelector(".small");
    if (image) box.replaceChildren(image);
    else if (reason || picture === "") box.replaceChildren();
    else box.replaceChildren(made("span", { textContent: "▤" }));
  }
  if (mine === turn) showText();
}

function showSizes() {
  const own = answer.state.values.size ?? "", sizes = own in begin.sizes ? begin.sizes : { ...begin.sizes, [own]: own };
  at("sizes").hidden = !optionNamed("size");
  at("sizes").replaceChildren(...Object.entries(sizes).map(([value, words]) => {
    const text = value === own && answer.drawn?.size[0] ? `${words} ${answer.drawn.size.map(Math.round).join(" × ")} mm` : words;
    const button = made("button", { textContent: text, attributes: { "aria-pressed": String(value === own) } });
    button.onclick = () => setOne("size", value);
    return button;
  }));
}

function showHeader() {
  const count = begin.entries.length;
  at("plan").textContent = begin.plan;
  at("about").textContent = `${count ? `${count} ${count === 1 ? "entry" : "entries"}` : "no entry yet"}${answer.entry ? ` · ${answer.entry}` : ""}`;
  at("undo").disabled = !answer.undo;
  at("redo").disabled = !answer.redo;
  at("history").textContent = `History · ${answer.steps.length}`;
  at("build").hidden = !(begin.builds && count);
  at("entries").replaceChildren(...begin.entries.map((name) => {
    const box = made("button", { className: "small", title: name, attributes: { "aria-label": `Entry ${name}`, "aria-pressed": String(name === answer.entry) } });
    if (smalls.has(name)) box.append(smalls.get(name));
    box.onclick = () => (name === answer.entry ? openEntry(box, name) : act("open", { name }));
    box.oncontextmenu = (event) => { event.preventDefault(); openEntry(box, name); };
    return box;
  }));
}

function openEntry(box, name) {
  const place = begin.entries.indexOf(name);
  const moved = (by) => { const names = [...begin.entries]; names.splice(place + by, 0, ...names.splice(place, 1)); return names; };
  const reorder = async (by) => { closeMenu(); around(await ask("reorder", { names: moved(by) })); };
  openMenu(box, made("b", { textContent: name }),
    ...(place > 0 ? [made("button", { textContent: "Earlier", onclick: () => reorder(-1) })] : []),
    ...(place < begin.entries.length - 1 ? [made("button", { textContent: "Later", onclick: () => reorder(1) })] : []),
    made("button", { textContent: "Duplicate", onclick: async () => { closeMenu(); smalls.clear(); await act("duplicate", { name }); drawEntries(); } }));
}

// What the report says around the chart, with its figures as they are now.
async function showText() {
  const mine = turn;
  if (!begin.reports || !answer.entry) { at("around-it").hidden = true; return; }
  const reply = await ask("text");
  if (mine !== turn || reply.fault || reply.later) return;
  at("text").innerHTML = reply.html; // made of CommonMark by the program: markup in it is shown, not obeyed
  at("text").append(...reply.faults.map((textContent) => made("p", { textContent, className: "fault" })));
  at("around-it").hidden = !reply.html;
}

async function drawEntries() {
  for (const name of [...begin.entries]) {
    if (smalls.has(name)) continue;
    const image = asImage((await pictureOf("entry", name)).picture, "");
    smalls.set(name, image ?? made("span", { textContent: "▤" }));
    const box = [...at("entries").children].find((one) => one.title === name);
    box?.replaceChildren(smalls.get(name));
  }
}

function around(reply) {
  if (!reply || reply.fault) return;
  Object.assign(begin, reply);
  showHeader();
  drawEntries();
}

// Every state of the sitting, to go back to or to see two side by side.
async function openHistory() {
  const dialog = at("dialog"), chosen = new Set(), states = made("div", { className: "states" });
  const compare = made("button", { textContent: "Compare two", className: "framed", disabled: true });
  const steps = [...answer.steps].reverse().slice(0, 60);
  for (const [number, about] of steps) {
    const box = made("button", { className: "small", attributes: { "aria-label": `State ${number}: ${about || "the first"}` } });
    if (number === answer.number) box.setAttribute("aria-current", "true");
    box.onclick = () => { dialog.close(); act("go", { number }); };
    const mark = made("input", { type: "checkbox", attributes: { "aria-label": `Compare state ${number}` } });
    mark.onchange = () => { if (mark.checked) chosen.add(number); else chosen.delete(number); compare.disabled = chosen.size !== 2; };
    states.append(made("div", { className: "state" }, box, made("label", {}, mark, ` ${number} · ${about || "the first"}`)));
    pictureOf("step", number).then(({ picture }) => { const image = asImage(picture, ""); if (image) box.append(image); });
  }
  compare.onclick = async () => {
    const pictures = await Promise.all([...chosen].sort((one, other) => one - other).map((number) => pictureOf("step", number)));
    states.replaceChildren(made("div", { className: "pair" }, ...pictures.map(({ picture }) => asImage(picture, "A state of the chart") ?? made("p", { textContent: "A table has no picture." }))));
    states.className = "";
  };
  dialog.replaceChildren(made("h2", { textContent: "All states of this sitting" }), states, made("div", { className: "deeds-below" }, compare, made("button", { textContent: "Close", className: "framed", onclick: () => dialog.close() })));
  dialog.setAttribute("aria-label", "History");
  dialog.showModal();
}

async function copyPicture(form) {
  try {
    if (form === "table") return await copied([answer.drawn.figures.heading, ...answer.drawn.figures.rows.map((row) => row.texts)].map((row) => row.join("\t")).join("\n"), "The table is copied.");
    if (form === "svg") return await copied(answer.drawn.picture, "The SVG is copied.");
    const picture = await (await fetch("/file/png")).blob();
    await navigator.clipboard.write([new ClipboardItem({ "image/png": picture })]);
    return hear("The PNG is copied.");
  } catch {
    return tellFault("The browser lets no picture be copied. Save it as a file.");
  }
}

function openSave() {
  const dialog = at("dialog"), name = made("input", { type: "text", value: `${answer.entry || "chart"}.png`, attributes: { "aria-label": "Name of the file" } });
  const save = made("button", { textContent: "Save", className: "first", onclick: async () => {
    const reply = await ask("save", { name: name.value.trim() });
    dialog.close();
    if (reply.message) hear(reply.message);
    if (reply.message) tellFault(reply.message);
  } });
  name.onkeydown = (event) => { if (event.key === "Enter") save.click(); };
  const chart = answer.drawn.picture.startsWith("<svg");
  const copies = [...(chart ? ["png", "svg"] : []), "table"].map((form) => made("button", { textContent: `Copy ${form === "table" ? "table" : form.toUpperCase()}`, className: "framed", onclick: () => { dialog.close(); copyPicture(form); } }));
  dialog.replaceChildren(made("h2", { textContent: "Save beside the plan, or copy" }), made("p", {}, name, " ", save),
    made("p", { textContent: chart ? "By its ending: png, svg, pdf, html, docx, pptx, xlsx." : "By its ending: csv, json, md, xlsx, parquet, html, docx, pptx." }),
    made("div", { className: "deeds-below" }, ...copies, made("button", { textContent: "Close", className: "framed", onclick: () => dialog.close() })));
  dialog.setAttribute("aria-label", "Save as");
  dialog.showModal();
}

async function keep(over = false, name = answer.entry) {
  const reply = await act("keep", { name, over });
  if (reply.twice) { askWhich(reply.twice); return; }
  if (reply.fault) return;
  smalls.delete(answer.entry);
  if (reply.answer?.message) tellFault(reply.answer.message);
  showHeader();
  drawEntries();
}

function openKeep() {
  if (answer.entry) { keep(); return; }
  const name = made("input", { type: "text", placeholder: "its name, such as routes", attributes: { "aria-label": "Name in the plan" } });
  const done = made("button", { textContent: `Keep in ${begin.plan}`, onclick: () => { closeMenu(); keep(false, name.value.trim()); } });
  name.onkeydown = (event) => { if (event.key === "Enter") done.click(); };
  openMenu(at("keep"), name, done);
}

function askWhich(text) {
  tellFault(`${text} `,
    made("button", { textContent: "Take the plan's", onclick: async () => { await act("theirs"); tellFault(""); } }),
    made("button", { textContent: "Keep mine", onclick: () => { tellFault(""); keep(true); } }));
}

async function build() {
  at("reading").hidden = false;
  at("reading").textContent = `Building ${begin.plan} …`;
  const reply = await ask("build");
  at("reading").hidden = true;
  if (reply.fault) return;
  const dialog = at("dialog");
  dialog.replaceChildren(made("h2", { textContent: "Built" }), ...reply.message.map((textContent) => made("p", { textContent })), made("div", { className: "deeds-below" }, made("button", { textContent: "Close", className: "framed", onclick: () => dialog.close() })));
  dialog.setAttribute("aria-label", "Built");
  dialog.showModal();
}

// What others do: files that change, and how far reading is.
function listen() {
  const events = new EventSource("/events");
  events.onmessage = async ({ data }) => {
    const reply = JSON.parse(data);
    if (reply.event === "read") {
      at("reading").hidden = false;
      at("reading").replaceChildren(`${reply.rows.toLocaleString("en")} records read `, made("button", { textContent: "Stop", onclick: () => ask("stop") }));
      return;
    }
    if (reply.plan) smalls.clear();
    const now = await ask("around");
    around(now);
    if (reply.twice) { askWhich(`${answer.entry} was changed in ${begin.plan} and here.`); return; }
    await act("show");
    if (reply.faults.length) tellFault(reply.faults.join("\n"));
    else if (!answer.drawn?.fault) hear("A file was changed, and is read anew.");
  };
}

for (const id of ["forms", "entries"]) {
  at(id).addEventListener("wheel", (event) => { if (!event.shiftKey && event.deltaY) { at(id).scrollLeft += event.deltaY; event.preventDefault(); } }, { passive: false });
}
addEventListener("changed-by-advice", ({ detail }) => {
  const now = answer.drawn?.picture, words = made("span", { textContent: `${detail.words}. ` });
  let earlier = "";
  pictureOf("step", detail.before).then(({ picture }) => { earlier = picture ?? ""; });
  const flip = made("button", { textContent: "Show before", onclick: () => {
    const before = flip.textContent === "Show before";
    at("picture").innerHTML = before ? earlier : now;
    flip.textContent = before ? "Show after" : "Show before";
  } });
  tellFault("", "");
  at("fault").hidden = false;
  at("fault").replaceChildren(words, flip, made("button", { textContent: "Take it back", onclick: () => act("undo") }));
});
onAnswer(() => {
  tellFault(answer.drawn?.fault ?? "", ...(answer.drawn?.proposed ?? []).map(proposal).filter(Boolean));
  if (answer.drawn) at("reading").hidden = true;
  at("beneath").hidden = answer.state.kind === "table";
  showHeader();
  showForms();
  showSizes();
  if (answer.drawn?.command) at("command").value = answer.drawn.command;
});
at("undo").onclick = () => act("undo");
at("redo").onclick = () => act("redo");
at("history").onclick = openHistory;
at("save").onclick = openSave;
at("keep").onclick = openKeep;
at("build").onclick = build;
at("copy-command").onclick = () => copied(answer.drawn.command, "The command is copied.");
at("copy-entry").onclick = () => copied(answer.drawn.entry, "The plan entry is copied.");
at("command").onkeydown = (event) => { if (event.key === "Enter") act("typed", { command: at("command").value }); };
addEventListener("keydown", (event) => {
  if (!(event.ctrlKey || event.metaKey) || /INPUT|TEXTAREA|SELECT/.test(event.target.tagName)) return;
  if (event.key === "z" && !event.shiftKey) act("undo");
  else if (event.key === "y" || event.key.toLowerCase() === "z") act("redo");
  else if (event.key === "s") openKeep();
  else return;
  event.preventDefault();
});

const reply = await (await fetch("/begin")).json();
if (reply.fault) tellFault(reply.fault);
else {
  Object.assign(begin, reply);
  at("names").append(...begin.listing.columns.map((one) => made("option", { value: one.name })));
  show(begin.answer);
  drawEntries();
  if (begin.faults.length) tellFault(begin.faults.join("\n"));
  listen();
}
