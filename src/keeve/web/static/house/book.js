// The mix book: its list, and picks that show at once.

const current = document.querySelector(".book-mixes [aria-current]");
if (current) {
  const list = current.closest(".book-mixes");
  list.scrollTop = current.offsetTop - list.offsetTop - list.clientHeight / 3;
}

for (const form of document.querySelectorAll("[data-send-on-change]")) {
  form.addEventListener("change", () => form.requestSubmit());
  // Somebody may have chosen before this script was there.
  const chosen = (select) => ![...select.options].some((one) => one.defaultSelected) ? select.selectedIndex > 0 : !select.selectedOptions[0].defaultSelected;
  if ([...form.querySelectorAll("select")].some(chosen)) form.requestSubmit();
}
