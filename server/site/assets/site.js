// What a browser adds to pages that read without it: the key / leads to the search, samples call the reader's own address, what is needed
// elsewhere is copied with one press, and the language that was read last is open on the next page.
"use strict";

// What is remembered: for good, and as long as the window is open. Where nothing may be, nobody remembers, and all else works.
const kept = (where) => ({
  get(key) { try { return where().getItem(key); } catch { return null; } },
  set(key, value) { try { where().setItem(key, value); } catch { /* nobody remembers */ } },
  list(key) { try { return [].concat(JSON.parse(this.get(key) || "[]")); } catch { return []; } },
});
const store = kept(() => localStorage), now = kept(() => sessionStorage);

// The key / leads to the search, unless the reader is writing.
addEventListener("keydown", (e) => {
  const field = document.querySelector("input[type=search]");
  if (e.key === "/" && field && !e.target.closest("input, textarea, select")) {
    e.preventDefault();
    field.focus();
  }
});

// An address that ends in something closed opens it.
const openTarget = () => {
  const target = location.hash && document.getElementById(decodeURIComponent(location.hash.slice(1)));
  for (let e = target; e; e = e.parentElement) if (e.tagName === "DETAILS") e.open = true;
  if (target) target.scrollIntoView();
};
addEventListener("hashchange", openTarget);
openTarget();

// The contents stay where they were, and folded where they were folded, from page to page of an API.
const side = document.querySelector("nav.side");
if (side && side.dataset.folds) {
  const key = "folded " + side.dataset.folds, where = "contents " + side.dataset.folds;
  const folds = [...side.querySelectorAll("details")], title = (d) => d.querySelector("summary").textContent;
  const folded = new Set(store.list(key));
  for (const d of folds) if (folded.has(title(d)) && !d.querySelector(".here")) d.open = false;
  const keep = () => store.set(key, JSON.stringify(folds.filter((d) => !d.open).map(title)));
  for (const d of folds) d.querySelector("summary").addEventListener("click", () => setTimeout(keep));
  if (folds.length > 1) {
    const all = document.createElement("button"), label = () => { all.textContent = folds.some((d) => d.open) ? "fold all" : "unfold all"; };
    all.type = "button";
    all.className = "folds";
    all.addEventListener("click", () => {
      const open = !folds.some((d) => d.open);
      for (const d of folds) d.open = open;
      keep();
      label();
    });
    for (const d of folds) d.addEventListener("toggle", label);
    label();
    side.prepend(all);
  }
  const here = side.querySelector(".here"), was = Number(now.get(where));
  if (was) side.scrollTop = was;
  if (here) {
    const [top, bottom] = [here.offsetTop, here.offsetTop + here.offsetHeight];
    if (top < side.scrollTop || bottom > side.scrollTop + side.clientHeight) side.scrollTop = top - side.clientHeight / 3;
  }
  addEventListener("pagehide", () => now.set(where, String(side.scrollTop)));
}

// Samples in the language that was read last, with the library that was read last or another one of the same language.
const languages = [...document.querySelectorAll("details[data-language]")];
const read = store.get("language") || "";
for (const call of new Set(languages.map((l) => l.getAttribute("name")))) {
  const all = languages.filter((l) => l.getAttribute("name") === call);
  const mine = all.find((l) => l.dataset.language === read) || all.find((l) => l.dataset.language.split("-")[0] === read.split("-")[0]);
  if (mine) mine.open = true;
}
for (const l of languages) {
  l.querySelector("summary").addEventListener("click", () => { if (!l.open) store.set("language", l.dataset.language); });
}

// The reader's own address of the API: samples call it, and it is what is copied. Samples are marked up, so the text is changed where it
// stands.
const replaceText = (e, from, to) => {
  for (let at = e.textContent.indexOf(from); at >= 0; at = e.textContent.indexOf(from, at + to.length)) {
    const walker = document.createTreeWalker(e, NodeFilter.SHOW_TEXT);
    for (let start = 0, node; (node = walker.nextNode());) {
      const length = node.data.length, first = Math.max(at - start, 0), end = Math.min(at + from.length - start, length);
      if (first < end) node.data = node.data.slice(0, first) + (start <= at ? to : "") + node.data.slice(end);
      start += length;
    }
  }
};
let own = "", written = "";
for (const form of document.querySelectorAll("form.own")) {
  const field = form.querySelector("input"), key = "address " + form.dataset.address;
  written = form.dataset.address;
  if (!written) continue;
  form.hidden = false;
  form.addEventListener("submit", (e) => e.preventDefault());
  const samples = [...document.querySelectorAll(".code pre")].map((pre) => [pre, pre.innerHTML]);
  const show = () => {
    own = field.value.trim().replace(/\/+$/, "");
    for (const [pre, html] of samples) {
      pre.innerHTML = html;
      if (own) replaceText(pre, written, own);
    }
  };
  field.value = store.get(key) || "";
  field.addEventListener("input", () => { store.set(key, field.value.trim()); show(); });
  show();
}

// What is typed elsewhere can be taken along: samples, addresses, paths, names.
const copied = async (text) => {
  if (navigator.clipboard) return navigator.clipboard.writeText(text);
  const area = document.createElement("textarea"); // an address that is not secure has no clipboard
  area.value = text;
  document.body.append(area);
  area.select();
  const done = document.execCommand("copy");
  area.remove();
  if (!done) throw new Error("not copied");
};
const said = document.createElement("div");
said.className = "said";
said.setAttribute("role", "status");
document.body.append(said);
const button = (kind, label, name, text) => {
  const b = document.createElement("button");
  b.type = "button";
  b.className = kind;
  b.textContent = label;
  if (name !== label) b.setAttribute("aria-label", name);
  b.addEventListener("click", async () => {
    try {
      await copied(text());
      b.textContent = "copied";
      said.textContent = "Copied.";
    } catch {
      b.textContent = "not copied";
      said.textContent = "The browser does not let this page copy.";
    }
    setTimeout(() => { b.textContent = label; said.textContent = ""; }, 1600);
  });
  return b;
};
for (const pre of document.querySelectorAll(".slip pre")) {
  const frame = document.createElement("div");
  frame.className = "text";
  pre.before(frame);
  frame.append(pre, button("copy", "copy", "copy this text", () => pre.textContent));
}
for (const name of document.querySelectorAll("a.n")) {
  const below = name.parentElement.querySelector(":scope > .d, :scope > .enum, :scope > dl");
  name.parentElement.insertBefore(button("take", "copy", "copy " + name.textContent, () => name.textContent), below);
}
for (const address of document.querySelectorAll("[data-copied]")) {
  const text = address.textContent, of = address.dataset.copied;
  address.after(button("take", "copy " + of, "copy " + of, () => text));
  if (address.dataset.at) {
    const whole = () => (own ? address.dataset.at.replace(written, own) : address.dataset.at) + text;
    address.parentElement.append(button("take", "copy address", "copy address", whole));
  }
}

// In a page of somebody else's: tell it how tall this one is.
if (parent !== window && document.body.classList.contains("embedded")) {
  const tell = () => parent.postMessage({ oldLedger: { height: document.documentElement.scrollHeight } }, "*");
  new ResizeObserver(tell).observe(document.body);
  tell();
}
