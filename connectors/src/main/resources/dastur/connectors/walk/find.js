// What a person would find under a name; arguments: what is sought (field, press, text, read), and its name.
const [sought, wanted] = arguments;
const plain = (text) => (text ?? "").replace(/\s+/g, " ").trim();
const label = (text) => plain(text).replace(/\s*[*:]+$/, "").trim();
const seen = (e) => e.checkVisibility({ checkVisibilityCSS: true }) && e.getClientRects().length > 0;

/** A label's own words, without what stands in the field that it holds. */
function words(element) {
  const copy = element.cloneNode(true);
  for (const inner of copy.querySelectorAll("input, select, textarea, button, script, style")) inner.remove();
  return copy.textContent;
}

function names(e) {
  const by = (e.getAttribute("aria-labelledby") ?? "").split(/\s+/).filter(Boolean);
  return [
    ...by.map((id) => document.getElementById(id)?.textContent),
    e.getAttribute("aria-label"),
    ...Array.from(e.labels ?? [], words),
    e.getAttribute("placeholder"),
    e.getAttribute("title"),
  ];
}

function sayings(e) {
  const inner = e.matches("input") ? [] : [e.innerText, ...Array.from(e.querySelectorAll("img[alt]"), (i) => i.alt)];
  const value = e.matches("input:not([type=checkbox]):not([type=radio])") ? [e.value, e.alt] : [];
  return [...names(e), ...inner, ...value];
}

const FIELDS =
  "input:not([type=hidden]):not([type=submit]):not([type=button]):not([type=image]):not([type=reset]):not([type=checkbox]):not([type=radio]), textarea, select, [contenteditable=true], [role=textbox]";
const PRESSED =
  "button, a[href], summary, [role=button], [role=link], [role=tab], [role=menuitem], [role=checkbox], [role=radio], input[type=submit], input[type=button], input[type=image], input[type=reset], input[type=checkbox], input[type=radio]";

function among(selector, named) {
  const all = Array.from(document.querySelectorAll(selector)).filter(seen);
  const found = all.filter((e) => named(e).some((n) => label(n) === label(wanted)));
  const others = all.map((e) => named(e).map(label).find(Boolean)).filter(Boolean);
  return { count: found.length, element: found[0] ?? null, others: [...new Set(others)].slice(0, 12) };
}

/** What stands beside a label: a field's value, the definition of a term, the cell after a heading, or the words after a colon. */
function beside() {
  const field = among(FIELDS, names);
  if (field.count === 1) return { count: 1, text: field.element.value ?? field.element.textContent };
  const found = Array.from(document.querySelectorAll("dt, th, td, b, strong, span, label, p, div, li"))
    .filter((e) => seen(e) && label(words(e)) === label(wanted))
    .filter((e, i, all) => !all.some((other) => other !== e && e.contains(other)));
  if (found.length !== 1) return { count: found.length, text: "" };
  const next = found[0].nextElementSibling;
  const rest = plain(found[0].parentElement.innerText).slice(plain(found[0].innerText).length);
  return { count: 1, text: plain(next ? next.innerText : rest).replace(/^[:\s]+/, "") };
}

if (sought === "field") return among(FIELDS, names);
if (sought === "press") return among(PRESSED, sayings);
if (sought === "read") {
  const read = beside();
  return { ...read, text: plain(read.text).slice(0, 2000), others: [] };
}
const text = plain(document.body?.innerText);
return { count: text.includes(plain(wanted)) ? 1 : 0, ready: document.readyState === "complete", text: text.slice(0, 300) };
