// @ts-check
// The room that texts take.

const Texts = (() => {
  "use strict";

  /** How far a text reaches below its baseline, in type sizes. @param {string} text */
  const descent = (text) => {
    const below = new Set([...text].filter((one) => !"0123456789.%+-−–=*† nABCDEFGHIKLMNOPRSTUVWXYZ".includes(one)));
    return below.size === 0 ? 0 : below.size === 1 && below.has(",") ? 0.15 : 0.21;
  };

  /** The room of a text. @param {Mark} mark */
  const boxOf = (mark) => {
    const left = mark.x - (mark.anchor === "middle" ? mark.width / 2 : mark.anchor === "end" ? mark.width : 0);
    return [left, mark.y - mark.size * 0.7, left + mark.width, mark.y + mark.size * Math.max(descent(mark.content), 0)];
  };

  return { boxOf, descent };
})();
