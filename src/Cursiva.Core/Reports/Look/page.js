"use strict";
// Sorts, filters and pages the tables. Values are only ever set as text.
for (const section of document.querySelectorAll("section[data-rows]")) {
  const all = JSON.parse(document.getElementById(section.dataset.rows).textContent);
  const kinds = section.dataset.kinds.split(" ");
  const body = section.querySelector("tbody");
  const heads = [...section.querySelectorAll("th")];
  const filter = section.querySelector("input");
  const count = section.querySelector(".count");
  const [back, on] = section.querySelectorAll(".tools button");
  const size = 50;
  let shown = all, page = 0, sorted = -1, up = true, texts = null;

  const grouped = n => String(n).replace(/\B(?=(\d{3})+$)/g, "\u202f");
  const isNumber = kind => kind !== "text";
  const amount = value => value.replace(/^(-?)(\d+)(?=$|\.\d+$)/, (_, sign, whole) => sign + whole.replace(/\B(?=(\d{3})+$)/g, "\u202f"));
  const compare = (a, b, kind) => {
    if (a === null || b === null) return a === b ? 0 : a === null ? 1 : -1;
    if (isNumber(kind)) {
      const difference = Number(a) - Number(b);
      if (difference) return up ? difference : -difference;
      if (a === b) return 0;
    }
    const order = a < b ? -1 : a > b ? 1 : 0;
    return up ? order : -order;
  };
  const draw = () => {
    const first = page * size, last = Math.min(shown.length, first + size);
    body.replaceChildren(...shown.slice(first, last).map(row => {
      const line = document.createElement("tr");
      row.forEach((value, place) => {
        const cell = line.insertCell();
        if (value === null) { cell.className = "none"; cell.textContent = "\u2013"; }
        else { cell.textContent = kinds[place] === "amount" ? amount(value) : value; if (value.length > 40) cell.title = value; }
        if (isNumber(kinds[place])) cell.classList.add("number");
      });
      return line;
    }));
    count.textContent = shown.length === 0 ? "no rows" : `${grouped(first + 1)}\u2013${grouped(last)} of ${grouped(shown.length)} rows` + (shown.length < all.length ? `, ${grouped(all.length)} in all` : "");
    back.disabled = page === 0;
    on.disabled = last >= shown.length;
  };
  const choose = () => {
    const words = filter.value.toLowerCase().split(/\s+/).filter(Boolean);
    if (words.length && !texts) texts = new Map(all.map(row => [row, row.join("\u0001").toLowerCase()]));
    shown = words.length ? all.filter(row => words.every(word => texts.get(row).includes(word))) : all;
    if (sorted >= 0) shown = [...shown].sort((a, b) => compare(a[sorted], b[sorted], kinds[sorted]));
    page = 0;
    draw();
  };
  heads.forEach((head, place) => head.querySelector("button").addEventListener("click", () => {
    up = sorted === place ? !up : true;
    sorted = place;
    heads.forEach((other, at) => at === place ? other.setAttribute("aria-sort", up ? "ascending" : "descending") : other.removeAttribute("aria-sort"));
    choose();
  }));
  filter.addEventListener("input", choose);
  back.addEventListener("click", () => { page--; draw(); });
  on.addEventListener("click", () => { page++; draw(); });
  section.querySelector(".tools").hidden = false;
  draw();
}
