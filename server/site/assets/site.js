// What a browser adds to pages that read without it: the key / leads to the search, samples call the reader's own address, and the
// language that was read last is open on the next page.
"use strict";

const store = {
  get(key) { try { return localStorage.getItem(key); } catch { return null; } },
  set(key, value) { try { localStorage.setItem(key, value); } catch { /* nobody remembers, and all else works */ } },
};

// The key / leads to the search, unless the reader is writing.
addEventListener("keydown", (e) => {
  const field = document.querySelector("input[type=search]");
  if (e.key === "/" && field && !e.target.closest("input, textarea, select")) {
    e.preventDefault();
    field.focus();
  }
});

// Samples in the language that was read last.
const languages = document.querySelectorAll("details[data-language]");
const read = store.get("language");
for (const l of languages) {
  if (read && l.dataset.language === read) l.open = true;
  l.addEventListener("toggle", () => { if (l.open) store.set("language", l.dataset.language); });
}

// Samples that call the reader's own address.
for (const form of document.querySelectorAll("form.own")) {
  const field = form.querySelector("input"), written = form.dataset.address, key = "address " + written;
  if (!written) continue;
  form.hidden = false;
  form.addEventListener("submit", (e) => e.preventDefault());
  const samples = [...document.querySelectorAll(".code pre")].map((pre) => [pre, pre.textContent]);
  const show = () => {
    const own = field.value.trim().replace(/\/+$/, "");
    for (const [pre, text] of samples) pre.textContent = own ? text.replaceAll(written, own) : text;
  };
  field.value = store.get(key) || "";
  field.addEventListener("input", () => { store.set(key, field.value.trim()); show(); });
  show();
}
