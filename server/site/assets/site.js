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

// An address that ends in something closed opens it.
const openTarget = () => {
  const target = location.hash && document.getElementById(decodeURIComponent(location.hash.slice(1)));
  for (let e = target; e; e = e.parentElement) if (e.tagName === "DETAILS") e.open = true;
  if (target) target.scrollIntoView();
};
addEventListener("hashchange", openTarget);
openTarget();

// Samples in the language that was read last.
const languages = document.querySelectorAll("details[data-language]");
const read = store.get("language");
for (const l of languages) {
  if (read && l.dataset.language === read) l.open = true;
  l.addEventListener("toggle", () => { if (l.open) store.set("language", l.dataset.language); });
}

// What can be taken along.
for (const b of document.querySelectorAll("button[data-copy]")) {
  if (!navigator.clipboard) continue;
  b.hidden = false;
  b.addEventListener("click", async () => {
    await navigator.clipboard.writeText(document.getElementById(b.dataset.copy).textContent);
    b.textContent = "Copied";
  });
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

// In a page of somebody else's: tell it how tall this one is.
if (parent !== window && document.body.classList.contains("embedded")) {
  const tell = () => parent.postMessage({ oldLedger: { height: document.documentElement.scrollHeight } }, "*");
  new ResizeObserver(tell).observe(document.body);
  tell();
}

// Search without a service, over the index of an export. It finds what the service finds: all words of the question, or such as begin with
// them or are misspelt by a letter or two, the best first.
const wordsOf = (text) => {
  const all = [];
  for (const word of text.split(/[^\p{L}\p{Nd}]+/u)) {
    if (!word) continue;
    all.push(word.toLowerCase());
    const humps = word.split(/(?<=[^\p{Lu}])(?=\p{Lu})/u);
    if (humps.length > 1) all.push(...humps.map((h) => h.toLowerCase()));
  }
  return all;
};
const misspelt = (a, b, most) => {
  if (Math.abs(a.length - b.length) > most) return most + 1;
  let before = [], row = [...Array(b.length + 1).keys()];
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) {
      next[j] = Math.min(row[j] + 1, next[j - 1] + 1, row[j - 1] + (a[i - 1] === b[j - 1] ? 0 : 1));
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) next[j] = Math.min(next[j], before[j - 2] + 1);
    }
    before = row;
    row = next;
  }
  return row[b.length];
};
const nearness = (asked, word) => {
  if (asked === word) return 8;
  if (word.startsWith(asked)) return 6;
  const typos = asked.length >= 8 ? 2 : asked.length >= 4 ? 1 : 0;
  if (!typos || word.length < asked.length - typos || asked[0] !== word[0]) return 0;
  for (let n = Math.max(1, asked.length - typos); n <= Math.min(word.length, asked.length + typos); n++) {
    const away = misspelt(asked, word.slice(0, n), typos);
    if (away <= typos) return (n === word.length ? 5 : 3) - away;
  }
  return 0;
};
const find = (index, question) => {
  const asked = wordsOf(question).slice(0, 8);
  if (!asked.length) return [];
  const hits = [];
  for (const e of index) {
    e.words ||= [[wordsOf(e.t), 30], [wordsOf(e.w || ""), 10], [wordsOf(e.x || ""), 4]];
    let score = 0;
    const all = asked.every((a) => {
      let best = 0;
      for (const [words, weight] of e.words) for (const w of words) best = Math.max(best, weight * nearness(a, w));
      score += best;
      return best > 0;
    });
    if (all) hits.push([score, e]);
  }
  return hits.sort(([a, x], [b, y]) => b - a || (x.t < y.t ? -1 : x.t > y.t ? 1 : 0)).slice(0, 40).map(([, e]) => e);
};
addEventListener("DOMContentLoaded", () => {
  const place = document.getElementById("found");
  if (!window.ledgerIndex || !place) return;
  const field = document.querySelector(".find input");
  const show = () => {
    place.replaceChildren(...find(window.ledgerIndex, field.value).map((e) => {
      const row = document.createElement("p"), link = document.createElement("a");
      link.href = e.p;
      link.textContent = e.t;
      row.append(link, " " + [e.k, e.w].filter(Boolean).join(", "));
      return row;
    }));
  };
  field.value = new URLSearchParams(location.search).get("q") || "";
  field.addEventListener("input", show);
  show();
});
