"use strict";
// The mix book: its list, and picks that show at once.

const current = document.querySelector(".book-mixes [aria-current]");
if (current) {
  const list = current.closest(".book-mixes");
  list.scrollTop = current.offsetTop - list.offsetTop - list.clientHeight / 3;
}

for (const form of document.querySelectorAll("[data-send-on-change]")) {
  form.addEventListener("change", () => form.requestSubmit());
}
