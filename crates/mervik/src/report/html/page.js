"use strict";
(() => {
  const chosen = { rule: null, field: null };
  const search = document.getElementById("search");
  const said = document.getElementById("said");
  const articles = [...document.querySelectorAll("article")];
  const buttons = [...document.querySelectorAll(".bars button")];
  const show = () => {
    const words = search.value.toLowerCase().split(/\s+/).filter(Boolean);
    let records = 0, findings = 0;
    for (const article of articles) {
      const heading = article.querySelector("h3").textContent.toLowerCase();
      let some = false;
      for (const item of article.querySelectorAll("li")) {
        const text = heading + " " + item.textContent.toLowerCase();
        const fits = (chosen.rule === null || item.dataset.rule === chosen.rule)
          && (chosen.field === null || item.dataset.field === chosen.field)
          && words.every((word) => text.includes(word));
        item.hidden = !fits;
        some = some || fits;
        findings += fits ? 1 : 0;
      }
      article.hidden = !some;
      records += some ? 1 : 0;
    }
    said.textContent = said.dataset.said.replace("{findings}", findings).replace("{records}", records);
    for (const button of buttons) {
      button.setAttribute("aria-pressed", String(chosen[button.dataset.kind] === button.dataset.value));
    }
  };
  for (const button of buttons) {
    button.addEventListener("click", () => {
      const { kind, value } = button.dataset;
      chosen[kind] = chosen[kind] === value ? null : value;
      show();
    });
  }
  search.addEventListener("input", show);
  document.getElementById("filter").addEventListener("reset", () => {
    chosen.rule = chosen.field = null;
    setTimeout(show);
  });
  document.getElementById("filter").addEventListener("submit", (event) => event.preventDefault());
  document.getElementById("filter").hidden = false;
  show();
})();
