// Puts a page of the reference where this script stands, as tall as it is:
//   <script src="https://ledger.example/reference/assets/embed.js" data-page="/embed/berths/1.2.0/operations/bookBerth"></script>
"use strict";
(() => {
  const script = document.currentScript, home = new URL(script.src);
  const page = new URL(script.dataset.page, home);
  if (page.origin !== home.origin) return;
  const frame = document.createElement("iframe");
  frame.src = page.href;
  frame.title = script.dataset.title || "API reference";
  frame.style.cssText = "border: 0; width: 100%; height: 600px;";
  addEventListener("message", (e) => {
    const height = e.data && e.data.oldLedger && Number(e.data.oldLedger.height);
    if (e.source === frame.contentWindow && e.origin === home.origin && height > 0) frame.style.height = Math.min(height, 20000) + "px";
  });
  script.after(frame);
})();
