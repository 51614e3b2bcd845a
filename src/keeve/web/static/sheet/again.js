// A sheet's page that is asked for anew stays usable until it comes: the field in hand goes on in the new one as it was left.
export const again = {
  handOver(form, lines, dirty) {
    const at = /** @type {any} */ (document.activeElement);
    const held = at && at.name && form.contains(at) ? { name: at.name, typed: dirty && at.type !== "radio" ? at.value : null } : null;
    sessionStorage.setItem("keeve-again", JSON.stringify({ lines, held, path: location.pathname }));
    return held !== null && held.typed !== null ? held.name : ""; // the new page keeps this one
  },

  // What is to be told, with the field put back; a value other than the page's own counts as typed before its scripts came.
  takeOver(form) {
    const kept = JSON.parse(sessionStorage.getItem("keeve-again") || "null");
    sessionStorage.removeItem("keeve-again");
    if (!kept || kept.path !== location.pathname) return [];
    const field = kept.held ? form.querySelector(`[name="${CSS.escape(kept.held.name)}"]`) : null;
    if (field) {
      requestAnimationFrame(() => field.focus());
      if (kept.held.typed !== null) field.value = kept.held.typed;
    }
    return kept.lines;
  },
};
