// @ts-check
// Opens the parents of a treemap, and goes back by their path; the opened one is kept in the address.

const Openings = ((phrase, tell, states) => {
  "use strict";

  const SHAPES = '[data-role="frame"],[data-role="tile"],[data-role="value"]';
  const DURATION = 350; // thousandths of a second: the eye can follow, and nobody waits

  /** @param {HTMLElement} figure @param {HTMLElement} bar @param {TileFacts} facts @param {SVGSVGElement} chart */
  const prepare = (figure, bar, facts, chart) => {
    const roles = new Set(["frame", "tile", "value", "ground"]);
    const marks = [...chart.children].filter((element) => {
      const role = element.getAttribute("data-role") || "";
      return roles.has(role) || (role === "pattern" && element.previousElementSibling?.getAttribute("data-role") === "tile");
    });
    const drawn = states.drawn(figure, chart, facts, marks, 'rect[data-role="frame"],rect[data-role="tile"]');
    let open = "";
    const way = document.createElement("nav");
    way.className = "way";
    way.setAttribute("aria-label", phrase("Path"));
    way.hidden = true;
    bar.prepend(way);

    /** @param {string} key @param {boolean} [quiet] */
    const show = (key, quiet) => {
      const path = Tiles.path(facts, key);
      open = path[path.length - 1].key;
      const before = places(chart);
      states.replace(drawn, open ? Tiles.draw(facts, open) : null);
      const names = path.map((one) => one.label || phrase("All"));
      states.writeNote(drawn, open ? names.join(" › ") : "");
      way.hidden = !open;
      way.replaceChildren(
        ...path.map((one, place) => {
          const step = document.createElement("button");
          step.type = "button";
          step.textContent = names[place];
          if (place === path.length - 1) step.setAttribute("aria-current", "true");
          step.addEventListener("click", () => show(one.key));
          return step;
        }),
      );
      if (quiet) return;
      follow(chart, before);
      states.keep();
      tell(names.join(" › "));
    };

    /** Opens the parent a mark lies in, one level deeper; on the title of the open one, goes back. @param {Element | null} mark */
    const enter = (mark) => {
      const key = mark?.getAttribute("data-category");
      if (!key) return;
      const level = open ? open.split("/").length : 0;
      const next = key.split("/").slice(0, level + 1).join("/");
      const path = Tiles.path(facts, next);
      if (key === open) show(path.length > 2 ? path[path.length - 2].key : "");
      else if (path[path.length - 1].key === next) show(next);
    };
    chart.addEventListener("click", (event) => enter(/** @type {Element} */ (event.target).closest(SHAPES)));
    chart.addEventListener("keydown", (event) => {
      if (event.key === "Enter") enter(chart.querySelector(".pointed"));
      else if ((event.key === "Escape" || event.key === "Backspace") && open) {
        const path = Tiles.path(facts, open);
        show(path[path.length - 2].key);
      } else return;
      event.preventDefault();
    });
    chart.classList.add("opens");
    states.register(figure.dataset.name || "", () => open, (key) => show(key, true));
  };

  /** Where each tile lies. @param {SVGSVGElement} chart */
  const places = (chart) => {
    /** @type {Map<string, number[]>} */
    const found = new Map();
    for (const one of chart.querySelectorAll('rect[data-role="frame"],rect[data-role="tile"]')) {
      found.set(`${one.getAttribute("data-role")} ${one.getAttribute("data-category")}`, ["x", "y", "width", "height"].map((name) => Number(one.getAttribute(name))));
    }
    return found;
  };

  /** Moves tiles from where they were, unless the reader asks for rest. @param {SVGSVGElement} chart @param {Map<string, number[]>} before */
  const follow = (chart, before) => {
    if (matchMedia("(prefers-reduced-motion: reduce)").matches) return;
    for (const one of /** @type {NodeListOf<SVGElement>} */ (chart.querySelectorAll('rect[data-role="frame"],rect[data-role="tile"]'))) {
      const was = before.get(`${one.dataset.role} ${one.dataset.category}`);
      if (!was) continue;
      const [x, y, width, height] = ["x", "y", "width", "height"].map((name) => Number(one.getAttribute(name)));
      const [wide, tall] = [was[2] / (width || 1), was[3] / (height || 1)];
      const start = `translate(${was[0] - wide * x}px, ${was[1] - tall * y}px) scale(${wide}, ${tall})`;
      one.animate([{ transform: start }, { transform: "none" }], { duration: DURATION, easing: "ease-out" });
    }
  };

  return { prepare };
});
