// Texts of the page that are smaller than 11 px as they are seen, or cut without saying so in full.
const shown = (e) => {
  const box = e.getBoundingClientRect();
  return e.checkVisibility() && box.width > 0 && box.bottom > 0 && box.top < innerHeight && box.right > 0 && box.left < innerWidth;
};
const says = (e) => [...e.childNodes].some((n) => n.nodeType === Node.TEXT_NODE && n.textContent.trim());
const sizeOf = (e) => {
  const svg = e.closest("svg");
  const drawn = svg?.viewBox.baseVal.width ? svg.getBoundingClientRect().width / svg.viewBox.baseVal.width : 1;
  return parseFloat(getComputedStyle(e).fontSize) * drawn;
};
// The small words in a field's frame are larger ones, drawn smaller: 13.5 px by three quarters are let be.
const inFrame = (e) => e.closest("label.MuiInputLabel-root") !== null;
const cutBy = (e) => {
  for (let box = e, n = 0; box && n < 3; box = box.parentElement, n += 1) {
    const hides = ["hidden", "clip"].includes(getComputedStyle(box).overflowX);
    if (hides && box.clientWidth > 0 && box.scrollWidth > box.clientWidth + 1) return box;
  }
  return null;
};
const found = [];
for (const e of document.querySelectorAll("body *")) {
  if (!says(e) || e.closest('script, style, title, [aria-hidden="true"]') || !shown(e)) continue;
  const words = e.textContent.trim().slice(0, 40);
  if (!inFrame(e) && sizeOf(e) < 10.99) found.push(`${sizeOf(e).toFixed(1)} px: ${words}`);
  const box = cutBy(e);
  if (box && !e.closest("[title]") && !box.querySelector("[title]")) found.push(`cut: ${words}`);
}
if (document.documentElement.scrollWidth > innerWidth) found.push("the page is wider than its window");
return found;
