// Search as one types: the service is asked, and without a service the index of an export. That finds what the service finds: all words of
// the question, or such as begin with them or are misspelt by a letter or two, the best first.
"use strict";

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
// A score says first where all words stand (title, place, text, or only misspelt), then what kind of thing it is, at last how near they are.
const points = 2048, kinds = { operation: 3, schema: 2, parameter: 1, field: 1 };
const places = [["t", 30, 3], ["w", 10, 2], ["x", 4, 1]];
const score = (asked, e) => {
  e.words ||= places.map(([part]) => wordsOf(e[part] || ""));
  let tier = 3, sum = 0;
  for (const a of asked) {
    let best = 0;
    places.forEach(([, weight, stands], i) => {
      for (const w of e.words[i]) {
        const near = nearness(a, w);
        if (near) best = Math.max(best, (near < 6 ? 0 : stands) * points + weight * near);
      }
    });
    if (!best) return 0;
    tier = Math.min(tier, Math.floor(best / points));
    sum += best % points;
  }
  return (tier * 4 + (kinds[e.k] || 0)) * points + sum;
};
const answered = (word, text) => wordsOf(text).some((w) => w.startsWith(word));
const says = (asked, e) => {
  const missing = asked.filter((a) => !answered(a, e.t) && !answered(a, e.w || ""));
  let best = "", most = 0;
  for (const sentence of (e.x || "").split(/(?<=[.!?])(?=[ \n])|\n(?=[\n\-*#|])/)) {
    const n = missing.filter((a) => answered(a, sentence)).length;
    if (n > most) [best, most] = [sentence.replace(/[`*#[\]]/g, "").trim().replace(/\s+/g, " "), n];
  }
  return best;
};
const find = (index, question, limit) => {
  const asked = wordsOf(question).slice(0, 8);
  if (!asked.length) return [];
  const hits = index.map((e) => [score(asked, e), e]).filter(([s]) => s);
  const order = (x, y) => (x < y ? -1 : x > y ? 1 : 0);
  hits.sort(([a, x], [b, y]) => b - a || order(x.t, y.t) || order(x.w || "", y.w || "") || order(x.p, y.p));
  return hits.slice(0, limit).map(([, e]) => ({ title: e.t, kind: e.k, where: e.w, page: e.p, says: says(asked, e) }));
};

// ask gives what a question finds. In an export, home leads to where its files are.
const loading = {};
const load = (src) => (loading[src] ||= new Promise((done, failed) => {
  const script = document.createElement("script");
  script.src = src;
  script.onload = done;
  script.onerror = failed;
  document.head.append(script);
}));
const ask = async (form, question, limit, signal) => {
  if (form.dataset.index) {
    await load(form.dataset.index);
    const home = form.dataset.index.replace(/assets\/[^/]*$/, "");
    return find(window.ledgerIndex, question, limit).map((h) => ({ ...h, page: home + h.page }));
  }
  const answer = await fetch(form.getAttribute("action") + ".json?q=" + encodeURIComponent(question), { signal });
  if (!answer.ok) throw new Error(answer.statusText);
  return (await answer.json()).found;
};

// A field for questions, with what it finds in a list below it: a combobox (WAI-ARIA 1.2) of links.
const rowOf = (hit) => {
  const link = document.createElement("a"), about = document.createElement("small");
  link.href = hit.page;
  link.textContent = hit.title;
  about.textContent = [hit.kind, hit.where].filter(Boolean).join(", ");
  link.append(" ", about);
  if (hit.says) {
    const sentence = document.createElement("span");
    sentence.textContent = hit.says;
    link.append(sentence);
  }
  return link;
};
document.querySelectorAll("form[role=search]").forEach((form, n) => {
  const field = form.querySelector("input[type=search]"), list = document.createElement("ul");
  let at = -1, asking = null;
  list.className = "found";
  list.id = "found-" + n;
  list.hidden = true;
  list.setAttribute("role", "listbox");
  list.setAttribute("aria-label", "What was found");
  form.append(list);
  for (const [name, value] of Object.entries({ role: "combobox", "aria-autocomplete": "list", "aria-controls": list.id, "aria-expanded": "false" })) {
    field.setAttribute(name, value);
  }
  const close = () => {
    if (asking) asking.abort();
    list.hidden = true;
    at = -1;
    field.setAttribute("aria-expanded", "false");
    field.removeAttribute("aria-activedescendant");
  };
  const go = (to) => {
    at = to;
    [...list.children].forEach((row, i) => row.setAttribute("aria-selected", String(i === at)));
    if (at < 0) return field.removeAttribute("aria-activedescendant");
    field.setAttribute("aria-activedescendant", list.children[at].id);
    list.children[at].scrollIntoView({ block: "nearest" });
  };
  const show = async () => {
    const question = field.value.trim();
    if (asking) asking.abort();
    if (!question) return close();
    asking = new AbortController();
    const { signal } = asking;
    try {
      const hits = await ask(form, question, 12, signal);
      if (signal.aborted) return;
      const chosen = at >= 0 && list.children[at].firstChild.href; // what comes later takes nothing away from whoever chose already
      list.replaceChildren(...hits.map((hit, i) => {
        const row = document.createElement("li");
        row.id = list.id + "-" + i;
        row.setAttribute("role", "option");
        row.append(rowOf(hit));
        row.firstChild.tabIndex = -1;
        return row;
      }));
      if (!hits.length) {
        const none = document.createElement("li");
        none.className = "none";
        none.setAttribute("role", "option");
        none.setAttribute("aria-disabled", "true");
        none.textContent = "Nothing here has these words.";
        list.append(none);
      }
      list.hidden = false;
      field.setAttribute("aria-expanded", "true");
      go(chosen ? hits.findIndex((_, i) => list.children[i].firstChild.href === chosen) : -1);
    } catch {
      if (!signal.aborted) close(); // the form still asks by leading to a page
    }
  };
  field.addEventListener("input", show);
  field.addEventListener("focus", () => { if (form.dataset.index) load(form.dataset.index).catch(() => {}); });
  field.addEventListener("keydown", (e) => {
    const rows = list.hidden ? 0 : list.querySelectorAll("a").length;
    if (e.key === "ArrowDown" && list.hidden) show();
    else if (e.key === "ArrowDown" && rows) go((at + 1) % rows);
    else if (e.key === "ArrowUp" && rows) go(at <= 0 ? rows - 1 : at - 1);
    else if (e.key === "Escape" && !list.hidden) close();
    else return;
    e.preventDefault();
  });
  form.addEventListener("focusout", (e) => { if (!form.contains(e.relatedTarget)) setTimeout(close, 150); });
  list.addEventListener("mousedown", (e) => e.preventDefault()); // the field keeps the focus until the link is followed
  list.addEventListener("click", close);
  form.addEventListener("submit", (e) => {
    if (at >= 0) {
      e.preventDefault();
      return list.children[at].firstChild.click();
    }
    if (!form.dataset.index) return;
    e.preventDefault(); // a file sends no form
    location.href = form.getAttribute("action") + "?q=" + encodeURIComponent(field.value.trim());
  });
});

// The page of an export on which a question's answers stand.
const page = document.getElementById("found"), askedHere = page && page.parentElement.querySelector("form[data-index]");
if (askedHere) {
  const field = askedHere.querySelector("input");
  field.value = new URLSearchParams(location.search).get("q") || "";
  ask(askedHere, field.value, 40).then((hits) => page.replaceChildren(...hits.map((hit) => {
    const row = document.createElement("p");
    row.append(rowOf(hit));
    return row;
  })));
}
