// Before a picture: what is typed in secret, and wherever the secret stands, is covered; true uncovers it again. Arguments: the secret, whether to uncover.
const [secret, uncover] = arguments;
const kept = (window.__covered ??= []);
if (uncover) {
  for (const undo of kept.splice(0)) undo();
  return;
}
for (const field of document.querySelectorAll("input, textarea")) {
  if (field.type === "password" || (secret && field.value.includes(secret))) {
    const before = field.style.cssText;
    field.style.setProperty("background", "black", "important");
    field.style.setProperty("color", "black", "important");
    kept.push(() => (field.style.cssText = before));
  }
}
if (secret) {
  const texts = document.createTreeWalker(document.documentElement, NodeFilter.SHOW_TEXT);
  for (let node = texts.nextNode(); node; node = texts.nextNode()) {
    if (node.data.includes(secret)) {
      const at = node;
      const before = node.data;
      node.data = before.replaceAll(secret, "•••");
      kept.push(() => (at.data = before));
    }
  }
}
