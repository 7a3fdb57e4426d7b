// What opens over the page beside the part that is changed; one at a time, closed by Escape or a press elsewhere.
import { at } from "./page.js";

let before = null;

export function closeMenu() {
  if (at("menu").hidden) return;
  at("menu").hidden = true;
  at("menu").replaceChildren();
  if (before?.isConnected) before.focus();
}

export function openMenu(part, ...content) {
  const box = part.getBoundingClientRect(), menu = at("menu");
  before = document.activeElement;
  menu.replaceChildren(...content);
  menu.hidden = false;
  menu.style.left = `${Math.max(8, Math.min(box.left, innerWidth - menu.offsetWidth - 12))}px`;
  const under = box.bottom + 6;
  menu.style.top = `${under + menu.offsetHeight < innerHeight - 8 ? under : Math.max(8, box.top - menu.offsetHeight - 6)}px`;
  menu.querySelector("input, button")?.focus();
}

addEventListener("keydown", (event) => { if (event.key === "Escape") closeMenu(); });
addEventListener("pointerdown", (event) => {
  if (!at("menu").hidden && !at("menu").contains(event.target)) closeMenu();
}, { capture: true });
