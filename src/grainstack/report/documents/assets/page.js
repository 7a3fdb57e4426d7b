// @ts-check
// What a page answers besides what it shows: the exact figure of a mark, the table behind a chart, copies and files.
// Everything is there without this script; it adds no figure that is not in the page already.
(() => {
  "use strict";

  /** What is said in the language of the page, by its English. @type {Record<string, string>} */
  const WORDS = JSON.parse(document.body.dataset.words || "{}");

  /** A text in the language of the page. @param {string} text */
  const phrase = (text) => WORDS[text] || text;

  const BELONGING = new Set(["record", "whisker", "halo", "mean", "median", "value", "letter"]);
  const STATUS = document.createElement("div");
  const TIP = document.createElement("div");

  /** A button with a text. @param {string} text @param {() => void} act */
  const button = (text, act) => {
    const made = document.createElement("button");
    made.type = "button";
    made.textContent = text;
    made.addEventListener("click", act);
    return made;
  };

  /** Tells readers who listen. @param {string} text */
  const tell = (text) => {
    STATUS.textContent = text;
  };

  /** Shows a tip beside a mark. @param {SVGGraphicsElement} mark */
  const show = (mark) => {
    hide();
    const text = mark.dataset.tip || "";
    const box = mark.getBoundingClientRect();
    TIP.textContent = text;
    TIP.hidden = false;
    const room = document.documentElement.clientWidth;
    const left = Math.min(Math.max(box.left + box.width / 2 - TIP.offsetWidth / 2, 4), room - TIP.offsetWidth - 4);
    const above = box.top - TIP.offsetHeight - 6;
    TIP.style.left = `${left + window.scrollX}px`;
    TIP.style.top = `${(above < 4 ? box.bottom + 6 : above) + window.scrollY}px`;
    mark.classList.add("pointed");
    Linking.point(mark);
  };

  const hide = () => {
    TIP.hidden = true;
    Linking.point(null);
    for (const one of document.querySelectorAll(".pointed")) {
      one.classList.remove("pointed");
      if (!one.classList.length) one.removeAttribute("class");
    }
  };

  /** Has the marks of a drawing tell their tips by our own means. @param {SVGSVGElement} chart */
  const dress = (chart) => {
    for (const title of chart.querySelectorAll("[data-role] > title")) {
      const mark = /** @type {SVGElement} */ (title.parentNode);
      mark.dataset.tip = title.textContent || "";
      title.remove(); // the browser's own tip would stand beside ours
    }
  };

  const views = Views(phrase, tell, hide, dress);

  /** The marks of a chart that say something, in the order they are read. @param {SVGSVGElement} chart */
  const marks = (chart) => /** @type {SVGGraphicsElement[]} */ ([...chart.querySelectorAll('[data-tip]:not([visibility="hidden"])')]);

  /** The mark that tells what is pointed at: itself, or for records, whiskers and figures the one they belong to. @param {Element} pointed */
  const tellerOf = (pointed) => {
    const mark = /** @type {SVGGraphicsElement | null} */ (pointed.closest("[data-tip]"));
    if (mark || !BELONGING.has(pointed.getAttribute("data-role") || "")) return mark;
    const key = ["panel", "category", "series"].map((part) => {
      const level = pointed.getAttribute(`data-${part}`);
      return level === null ? `:not([data-${part}])` : `[data-${part}="${CSS.escape(level)}"]`;
    });
    return /** @type {SVGGraphicsElement | null} */ (pointed.closest("svg")?.querySelector(`[data-tip]${key.join("")}`));
  };

  /** Moves from mark to mark by keys. @param {SVGSVGElement} chart @param {KeyboardEvent} event */
  const walk = (chart, event) => {
    const every = marks(chart);
    const steps = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1, Home: -every.length, End: every.length };
    if (event.key === "Escape") return hide();
    if (!(event.key in steps) || !every.length) return;
    event.preventDefault();
    const now = every.findIndex((one) => one.classList.contains("pointed"));
    const next = Math.min(Math.max(now + steps[/** @type {keyof typeof steps} */ (event.key)], 0), every.length - 1);
    show(every[next]);
    tell(every[next].dataset.tip || "");
  };

  /** The chart with its fonts, as a file of its own. @param {SVGSVGElement} chart */
  const alone = (chart) => {
    const copy = /** @type {SVGSVGElement} */ (chart.cloneNode(true));
    const box = chart.viewBox.baseVal;
    copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
    copy.setAttribute("width", `${box.width}pt`);
    copy.setAttribute("height", `${box.height}pt`);
    for (const name of ["class", "style", "tabindex"]) copy.removeAttribute(name);
    for (const one of copy.querySelectorAll("[data-tip]")) {
      const title = document.createElementNS("http://www.w3.org/2000/svg", "title");
      title.textContent = one.getAttribute("data-tip");
      one.prepend(title);
      one.removeAttribute("data-tip");
      one.classList.remove("pointed");
    }
    const style = document.createElementNS("http://www.w3.org/2000/svg", "style");
    style.textContent = ((document.querySelector("style") || {}).textContent || "").match(/@font-face\{[^}]*\}/g)?.join("") || "";
    copy.insertBefore(style, copy.children[2] || null);
    return new XMLSerializer().serializeToString(copy);
  };

  /** Hands over a file. @param {Blob} content @param {string} name */
  const save = (content, name) => {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(content);
    link.download = name;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 1000);
    tell(phrase("Saved {name}.").replace("{name}", name));
  };

  /** Saves a chart as a drawing. @param {SVGSVGElement} chart @param {string} name */
  const saveDrawing = (chart, name) => save(new Blob([alone(chart)], { type: "image/svg+xml" }), `${name}.svg`);

  /** Saves a chart as a bitmap of twice its points. @param {SVGSVGElement} chart @param {string} name */
  const saveBitmap = (chart, name) => {
    const picture = new Image();
    picture.addEventListener("load", () => {
      const canvas = document.createElement("canvas");
      canvas.width = Math.round(chart.viewBox.baseVal.width * 2);
      canvas.height = Math.round(chart.viewBox.baseVal.height * 2);
      canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
      canvas.toBlob((content) => content && save(content, `${name}.png`), "image/png");
    });
    picture.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(alone(chart))}`;
  };

  /** A table as lines of cells parted by tabs, as spreadsheets paste them. @param {HTMLTableElement} table */
  const asText = (table) =>
    [...table.rows].map((row) => [...row.cells].map((cell) => (cell.textContent || "").trim()).join("\t")).join("\n");

  /** Copies a table, also where a page from a file may not use the clipboard. @param {HTMLTableElement} table */
  const copyTable = (table) => {
    const text = asText(table);
    const done = () => tell(phrase("Copied the table."));
    const byHand = () => {
      const field = document.createElement("textarea");
      field.value = text;
      document.body.append(field);
      field.select();
      document.execCommand("copy");
      field.remove();
      done();
    };
    if (navigator.clipboard) navigator.clipboard.writeText(text).then(done, byHand);
    else byHand();
  };

  /** Makes a chart answer. @param {HTMLElement} figure */
  const prepare = (figure) => {
    const chart = /** @type {SVGSVGElement | null} */ (figure.querySelector("svg.chart"));
    if (!chart) return;
    const name = figure.dataset.name || "chart";
    const bar = document.createElement("div");
    bar.className = "tools";
    bar.append(
      button(phrase("Save as SVG"), () => saveDrawing(chart, name)),
      button(phrase("Save as PNG"), () => saveBitmap(chart, name)),
    );
    views.prepare(figure, bar);
    dress(chart);
    chart.setAttribute("tabindex", "0");
    chart.addEventListener("keydown", (event) => walk(chart, event));
    chart.addEventListener("blur", hide);
    chart.addEventListener("focus", () => tell(phrase("Arrow keys go through the figures.")));
    for (const kind of ["pointerover", "click"]) {
      chart.addEventListener(kind, (event) => {
        const mark = tellerOf(/** @type {Element} */ (event.target));
        if (mark) return show(mark);
        hide();
        Linking.point(/** @type {Element} */ (event.target).closest('[data-role^="legend"],[data-role="category"]'));
      });
    }
    chart.addEventListener("pointerleave", hide);
    figure.append(bar);
  };

  STATUS.className = "status";
  STATUS.setAttribute("role", "status");
  TIP.className = "tip";
  TIP.hidden = true;
  TIP.setAttribute("aria-hidden", "true"); // what it says is told as well
  document.body.append(STATUS, TIP);
  document.querySelectorAll("figure").forEach(prepare);
  if (typeof Filters !== "undefined") Filters(phrase, tell, views);
  views.restore();
  for (const table of document.querySelectorAll(".table > table")) {
    const copy = button(phrase("Copy the table"), () => copyTable(/** @type {HTMLTableElement} */ (table)));
    copy.className = "copy";
    /** @type {Element} */ (table.parentNode).after(copy);
  }
  window.addEventListener("scroll", hide, { passive: true });
})();
