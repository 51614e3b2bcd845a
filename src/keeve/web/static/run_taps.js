"use strict";
// The browser's twin of core/tap_order.py: the order of taps, and which of them were taken back. Pure, as run_fold.js.

(() => {
  const OF_LOAD = new Set(["started", "poured", "step_done", "step_back", "judged", "dry_added", "measured", "weighed", "stage_seen", "accepted", "thrown_away", "settled"]);

  const less = (a, b) => (a < b ? -1 : a > b ? 1 : 0);
  const ms = (event) => Math.floor(Date.parse(event.at));

  // ── order, and what was taken back ─────────────────────────────────────────
  const inOrder = (events) => {
    const unique = new Map();
    for (const event of events) {
      const known = unique.get(event.id);
      const rank = known && (less(ms(event), ms(known)) || less(event.phone, known.phone) || less(event.seq, known.seq));
      if (!known || rank < 0) unique.set(event.id, event);
    }
    const latest = new Map();
    const taps = [];
    const byPhone = [...unique.values()].sort((a, b) => less(a.phone, b.phone) || less(a.seq, b.seq) || less(ms(a), ms(b)) || less(a.id, b.id));
    for (const event of byPhone) {
      const at = Math.max(ms(event), latest.get(event.phone) || 0);
      latest.set(event.phone, at);
      taps.push({ event, at });
    }
    return taps.sort((a, b) => less(a.at, b.at) || less(a.event.phone, b.event.phone) || less(a.event.seq, b.event.seq) || less(a.event.id, b.event.id));
  };

  const standing = (taps) => {
    const byId = new Map(taps.map((tap) => [tap.event.id, tap.event]));
    const dead = new Set();
    const early = new Map();
    const took = new Map();
    const seen = new Set();
    const alive = new Map(); // mixer -> load -> taps that count
    const count = (event, by) => {
      if (!OF_LOAD.has(event.kind)) return;
      if (!alive.has(event.mixer)) alive.set(event.mixer, new Map());
      const loads = alive.get(event.mixer);
      loads.set(event.load, (loads.get(event.load) || 0) + by);
    };
    const inTime = (event) => {
      if (!OF_LOAD.has(event.kind)) return true;
      for (const [load, n] of alive.get(event.mixer) || []) if (n > 0 && load > event.load) return false;
      return true;
    };
    const come = (event) => {
      seen.add(event.id);
      const undoing = early.get(event.id);
      if (undoing !== undefined && inTime(event)) {
        dead.add(event.id);
        took.set(undoing, { id: event.id, gone: true });
      } else count(event, 1);
    };
    const turn = (undoing, event, gone) => {
      took.set(undoing.id, { id: event.id, gone });
      if (gone) dead.add(event.id);
      else dead.delete(event.id);
      count(event, gone ? -1 : 1);
    };
    const undo = (undoing) => {
      seen.add(undoing.id);
      const target = byId.get(undoing.undoes);
      if (!target) return;
      if (target.kind === "undone") {
        const turned = took.get(target.id);
        // Where another has turned the tap the same way meanwhile, taking back changes nothing.
        if (turned && dead.has(turned.id) === turned.gone && inTime(byId.get(turned.id))) {
          took.delete(target.id);
          turn(undoing, byId.get(turned.id), !turned.gone);
        }
      } else if (!seen.has(target.id)) {
        if (!early.has(target.id)) early.set(target.id, undoing.id);
      } else if (!dead.has(target.id) && inTime(target)) {
        turn(undoing, target, true);
      }
    };
    for (const tap of taps) (tap.event.kind === "undone" ? undo : come)(tap.event);
    return taps.filter((tap) => tap.event.kind !== "undone" && !dead.has(tap.event.id));
  };

  globalThis.keeveTaps = { inOrder, standing, less, OF_LOAD };
})();
