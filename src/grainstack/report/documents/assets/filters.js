// @ts-check
// Charts of a page by the levels of further columns: every choice is there, made like any other chart; one is shown.

/**
 * Lets readers choose.
 * @param {(text: string) => string} phrase @param {(text: string) => void} tell
 * @param {{register: (name: string, get: () => string, set: (text: string) => void) => void, keep: () => void}} views
 */
const Filters = (phrase, tell, views) => {
  /** @param {HTMLElement} outer */
  const prepare = (outer) => {
    /** @type {{label: string, levels: string[]}[]} */
    const filters = JSON.parse(outer.dataset.filters || "[]");
    const charts = new Map([...outer.querySelectorAll("[data-places]")].map((one) => {
      const chart = /** @type {HTMLElement} */ (one);
      return [chart.dataset.places || "", chart];
    }));
    const bar = document.createElement("div");
    bar.className = "filters";
    const choices = filters.map(({ label, levels }) => {
      const choice = document.createElement("select");
      choice.append(...[phrase("All"), ...levels].map((text, place) => new Option(text, String(place))));
      choice.addEventListener("change", () => {
        show();
        tell(phrase("Shown: {names}.").replace("{names}", choices.map((one) => one.selectedOptions[0].text).join(", ")));
        views.keep();
      });
      const named = document.createElement("label");
      named.append(`${label} `, choice);
      bar.append(named);
      return choice;
    });
    const now = () => choices.map((one) => one.value).join(".");

    /** Shows the chart that is chosen, and offers only what there is beside it. */
    const show = () => {
      for (const [places, chart] of charts) chart.hidden = places !== now();
      choices.forEach((choice, number) => {
        for (const option of choice.options) {
          option.disabled = !charts.has(choices.map((one, place) => (place === number ? option.value : one.value)).join("."));
        }
      });
    };

    const chosen = () => (choices.some((one) => one.value !== "0") ? now() : "");
    views.register(`${outer.dataset.filtered} filters`, chosen, (text) => {
      if (!charts.has(text)) return;
      text.split(".").forEach((place, number) => {
        choices[number].value = place;
      });
      show();
    });
    show();
    outer.prepend(bar);
  };

  document.querySelectorAll("[data-filters]").forEach((one) => prepare(/** @type {HTMLElement} */ (one)));
};
