// @ts-check
// Marks a level wherever a page shows it, while a reader points at it in one of the charts.

const Linking = (() => {
  "use strict";

  const SHAPES = "rect[data-role],path[data-role],circle[data-role]";
  const SAID = new Set(["bar", "slice", "tile", "dot", "box", "legend-swatch"]);

  /** The level that a mark is of: of its category, in the legend of its series; nothing where that is not known. @param {Element} mark */
  const levelOf = (mark) => {
    const figure = /** @type {HTMLElement | null} */ (mark.closest("figure"));
    const { role = "", category, series } = /** @type {SVGElement} */ (mark).dataset;
    if (!figure) return "";
    const ofSeries = series && (role.startsWith("legend") || !category);
    const [column, path] = ofSeries ? [figure.dataset.series, series] : [figure.dataset.category, category];
    return column && path ? `${column}=${path.split("/").pop()}` : "";
  };

  /** Whether a mark is of a level, as what it is. @param {SVGElement} mark @param {DOMStringMap} of @param {string} level */
  const isOf = (mark, of, level) =>
    ["panel", "category", "series"].some((part) => {
      const path = mark.dataset[part];
      return path && of[part] && `${of[part]}=${path.split("/").pop()}` === level;
    });

  /** Marks a level in all charts but the one it was pointed at in; nothing takes the marks away. @param {Element | null} pointed */
  const point = (pointed) => {
    for (const one of document.querySelectorAll(".linked")) {
      one.classList.remove("linked");
      if (!one.classList.length) one.removeAttribute("class");
    }
    const level = pointed ? levelOf(pointed) : "";
    if (!level || !pointed) return;
    const here = /** @type {HTMLElement | null} */ (pointed.closest("figure"));
    for (const figure of document.querySelectorAll("figure")) {
      if (figure.dataset.name === here?.dataset.name) continue;
      for (const mark of /** @type {NodeListOf<SVGElement>} */ (figure.querySelectorAll(SHAPES))) {
        if (SAID.has(mark.dataset.role || "") && isOf(mark, figure.dataset, level)) mark.classList.add("linked");
      }
    }
  };

  return { point };
})();
