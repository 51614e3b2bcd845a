// The browser's twin of core/run/tap_order.py: the order of taps, and which of them were taken back. Pure, as fold.js.

import { OF_LOAD } from "./constants.js";

export const less = (a, b) => (a < b ? -1 : a > b ? 1 : 0);
const ms = (event) => Math.floor(Date.parse(event.at));

// ── order, and what was taken back ─────────────────────────────────────────
const ownOrder = (a, b) => less(a.seq, b.seq) || less(ms(a), ms(b)) || less(a.id, b.id);
const place = (a, b) => less(a.at, b.at) || less(a.event.phone, b.event.phone) || less(a.event.seq, b.event.seq) || less(a.event.id, b.event.id);

// Puts events in order after what is known of their phones; null where one belongs before what its phone told.
const placed = (events, phones) => {
  const taps = [];
  for (const event of [...events].sort((a, b) => less(a.phone, b.phone) || ownOrder(a, b))) {
    const before = phones.get(event.phone);
    if (before && ownOrder(event, before.event) < 0) return null;
    const at = Math.max(ms(event), before ? before.at : 0);
    phones.set(event.phone, { event, at });
    taps.push({ event, at });
  }
  return taps.sort(place);
};

// Which taps were taken back in time.
const takenBack = (events) => {
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
  const turn = (undoing, event, gone) => {
    took.set(undoing.id, { id: event.id, gone });
    if (gone) dead.add(event.id);
    else dead.delete(event.id);
    count(event, gone ? -1 : 1);
  };
  return {
    dead,
    come(event) {
      seen.add(event.id);
      const undoing = early.get(event.id);
      if (undoing !== undefined && inTime(event)) {
        dead.add(event.id);
        took.set(undoing, { id: event.id, gone: true });
      } else count(event, 1);
    },
    undo(undoing) {
      seen.add(undoing.id);
      const target = events.get(undoing.undoes);
      if (!target) return;
      if (target.kind === "undone") {
        const turned = took.get(target.id);
        // Where another has turned the tap the same way meanwhile, taking back changes nothing.
        if (turned && dead.has(turned.id) === turned.gone && inTime(events.get(turned.id))) {
          took.delete(target.id);
          turn(undoing, events.get(turned.id), !turned.gone);
        }
      } else if (!seen.has(target.id)) {
        if (!early.has(target.id)) early.set(target.id, undoing.id);
      } else if (!dead.has(target.id) && inTime(target)) {
        turn(undoing, target, true);
      }
    },
  };
};

// The taps of a log that count, in order; what comes later goes on from there, what comes between begins anew.
export class TapOrder {
  constructor() {
    this.events = new Map();
    this.begin();
  }

  begin() {
    this.standing = [];
    this.phones = new Map();
    this.taken = takenBack(this.events);
    this.last = null;
    this.missing = new Set(); // taken back, and not come
  }

  // Returns how many of those that stood before stand as they did: all, or none.
  take(events) {
    const fresh = new Map();
    let turned = false;
    for (const event of events) {
      const known = fresh.get(event.id) || this.events.get(event.id);
      const rank = known && (less(ms(event), ms(known)) || less(event.phone, known.phone) || less(event.seq, known.seq));
      if (known && rank >= 0) continue;
      if (this.events.has(event.id)) turned = true;
      if (this.missing.has(event.id)) turned = true;
      fresh.set(event.id, event);
    }
    if (fresh.size === 0) return this.standing.length;
    const stood = this.standing.length;
    for (const [id, event] of fresh) this.events.set(id, event);
    if (!turned && this.goOn(fresh)) return stood;
    this.begin();
    this.goOn(this.events);
    return 0;
  }

  // False where what comes does not come after all others, or changes what stood.
  goOn(fresh) {
    const anew = this.last === null;
    const taps = placed(fresh.values(), this.phones);
    if (!taps || (this.last && taps.length && place(taps[0], this.last) < 0)) return false;
    const { taken } = this;
    const before = new Set(taken.dead);
    const came = [];
    for (const tap of taps) {
      if (tap.event.kind === "undone") {
        taken.undo(tap.event);
        if (!this.events.has(tap.event.undoes)) this.missing.add(tap.event.undoes);
      } else {
        taken.come(tap.event);
        came.push(tap);
      }
    }
    const changed = [...taken.dead].some((id) => !before.has(id) && !fresh.has(id)) || [...before].some((id) => !taken.dead.has(id));
    if (!anew && changed) return false;
    for (const tap of came) if (!taken.dead.has(tap.event.id)) this.standing.push(tap);
    if (taps.length) this.last = taps[taps.length - 1];
    return true;
  }
}
