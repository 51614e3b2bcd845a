// Taps wait here until the server has them: one row each in this browser's own database, so that two tabs share one
// queue and none is lost; where that database is full or closed they wait in the page and are sent at once all the same.

import { t } from "../house/words.js";

const SEND_AGAIN_MS = 4000;
const AT_ONCE = 100;
const FOR_GOOD = new Set([400, 404, 405, 410, 413, 415, 422]);

const hex = (count) => [...crypto.getRandomValues(new Uint8Array(count))].map((b) => b.toString(16).padStart(2, "0")).join("");
const newId = () => (crypto.randomUUID ? crypto.randomUUID() : hex(16));
const page = hex(4);
const browser = (() => {
  try {
    const known = localStorage.getItem("keeve_phone");
    if (known) return known;
    const made = hex(6);
    localStorage.setItem("keeve_phone", made);
    return made;
  } catch {
    return hex(6);
  }
})();

const asked = (request) =>
  new Promise((resolve, reject) => {
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });

const openBox = async () => {
  const opening = indexedDB.open("keeve", 2);
  opening.onupgradeneeded = () => {
    const missing = ["taps", "aside", "known"].filter((name) => !opening.result.objectStoreNames.contains(name));
    for (const name of missing) opening.result.createObjectStore(name, { keyPath: "id" }).createIndex("job", "job");
  };
  const box = await asked(opening);
  box.onversionchange = () => box.close();
  return box;
};

// One change of the box; done when it is on the disk.
const change = (box, store, work) =>
  new Promise((resolve, reject) => {
    const all = box.transaction(store, "readwrite", { durability: "strict" });
    all.oncomplete = () => resolve();
    all.onabort = () => reject(all.error || new Error("full"));
    work(all.objectStore(store));
  });

export class Queue {
  // hears: {took(tap), folded(events), sent(answer), waits(count, why), aside(list), trouble(words)}
  constructor(job, address, hears) {
    this.job = job;
    this.address = address;
    this.hears = hears;
    this.loose = []; // taps the box did not take
    this.adding = 0; // taps on their way into the box
    this.seq = 0;
    this.skewMs = 0;
    this.sending = false;
    this.boxed = openBox().catch(() => null);
    this.others = "BroadcastChannel" in window ? new BroadcastChannel(`keeve ${job}`) : null;
    if (this.others) this.others.onmessage = (message) => hears.took(message.data);
    window.addEventListener("online", () => this.send());
    document.addEventListener("visibilitychange", () => { if (document.visibilityState === "visible") this.send(); });
  }

  // The server's moment [ms]; a page that was kept has none and goes by what this browser was told last.
  setClock(nowMs) {
    try {
      if (nowMs) localStorage.setItem("keeve_skew", `${nowMs - Date.now()}`);
      this.skewMs = nowMs ? nowMs - Date.now() : Number(localStorage.getItem("keeve_skew")) || 0;
    } catch {
      this.skewMs = nowMs ? nowMs - Date.now() : 0;
    }
  }

  get phone() { return `${browser}.${page}`; }
  mine(event) { return event.phone.startsWith(`${browser}.`); }

  async waiting() {
    const box = await this.boxed;
    const kept = box ? await asked(box.transaction("taps").objectStore("taps").index("job").getAll(this.job)).catch(() => []) : [];
    return [...kept, ...this.loose].sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : a.event.seq - b.event.seq));
  }

  // A page that was kept knows the log up to its number; what the server told since is kept beside it.
  async begin(n, from) {
    this.hears.told((await this.knownSince(n, from)).map((row) => row.event));
    for (const tap of await this.waiting()) this.hears.took(this.onOurClock(tap));
    this.hears.aside(await this.refused());
    this.send();
  }

  async remember(events) {
    const box = await this.boxed;
    const numbered = events.filter((event) => event.n);
    if (!box || numbered.length === 0) return;
    await change(box, "known", (store) => numbered.forEach((event) => store.put({ id: event.id, job: this.job, n: event.n, event }))).catch(() => {});
  }

  // Of a very long log the page carries the end. What came before is asked for once, and kept here.
  async before(n) {
    const box = await this.boxed;
    const mark = `${this.job} upto`;
    const kept = box ? await asked(box.transaction("known").objectStore("known").get(mark)).catch(() => null) : null;
    const rows = kept ? await asked(box.transaction("known").objectStore("known").index("job").getAll(this.job)) : [];
    let upto = kept ? kept.n : 0;
    const found = rows.filter((row) => row.n <= upto).map((row) => row.event);
    while (upto < n) {
      const answer = await fetch(`${this.address}?after=${upto}`);
      if (!answer.ok) throw new Error(`${answer.status}`);
      const part = await answer.json();
      if (part.upto <= upto) break;
      upto = part.upto;
      found.push(...part.events);
      if (box) {
        await change(box, "known", (store) => {
          for (const event of part.events) store.put({ id: event.id, job: this.job, n: event.n, event });
          store.put({ id: mark, job: mark, n: upto });
        }).catch(() => {});
      }
    }
    return found;
  }

  async knownSince(n, from) {
    const box = await this.boxed;
    if (!box) return [];
    const rows = await asked(box.transaction("known").objectStore("known").index("job").getAll(this.job)).catch(() => []);
    const old = rows.filter((row) => row.n > from && row.n <= n);
    if (old.length) await change(box, "known", (store) => old.forEach((row) => store.delete(row.id))).catch(() => {});
    return rows.filter((row) => row.n > n);
  }

  // The page counts a tap that waits at the moment the server will give it.
  onOurClock(tap) { return { ...tap.event, at: new Date(Date.parse(tap.event.at) + this.skewMs).toISOString() }; }

  make(kind, more) {
    this.seq += 1;
    return { id: newId(), at: new Date().toISOString(), phone: this.phone, seq: this.seq, kind, ...more };
  }

  async add(event) {
    const tap = { id: event.id, job: this.job, at: event.at, page, mono: performance.now(), event };
    const seen = this.onOurClock(tap);
    this.adding += 1;
    this.hears.took(seen);
    if (this.others) this.others.postMessage(seen);
    try {
      const box = await this.boxed;
      if (!box) throw new Error("no box");
      await change(box, "taps", (store) => store.put(tap));
    } catch {
      this.loose.push(tap);
      this.hears.trouble(t("This browser's memory is full or closed: the tap is sent at once. Keep this page open until it is."));
    }
    this.adding -= 1;
    this.send();
  }

  send() {
    if (this.sending) {
      this.more = true;
      return;
    }
    this.sending = true;
    const turn = navigator.locks ? navigator.locks.request(`keeve send ${this.job}`, () => this.sendAll()) : this.sendAll();
    turn.catch(() => {}).finally(() => {
      this.sending = false;
      if (this.more) { this.more = false; this.send(); }
    });
  }

  async sendAll() {
    for (;;) {
      const taps = (await this.waiting()).slice(0, AT_ONCE);
      if (taps.length === 0) { this.hears.waits(0, ""); return; }
      const outcome = await this.post(taps);
      if (outcome !== "sent") {
        this.hears.waits((await this.waiting()).length, outcome);
        clearTimeout(this.again);
        this.again = setTimeout(() => this.send(), SEND_AGAIN_MS);
        return;
      }
    }
  }

  async post(taps) {
    // While the page that took a tap lives, its age is told by a clock nobody can set.
    const events = taps.map((tap) => (tap.page === page ? { ...tap.event, age_s: Math.max(0, (performance.now() - tap.mono) / 1000) } : tap.event));
    let answer;
    try {
      answer = await fetch(this.address, {
        method: "POST",
        keepalive: taps.length < 60, // a tap just made survives leaving the page
        headers: { "content-type": "application/json", "x-keeve-token": document.querySelector("meta[name=token]").content },
        body: JSON.stringify({ sent_at: new Date().toISOString(), events, ...this.hears.folded(taps.map((tap) => tap.event)) }),
      });
    } catch {
      return "network";
    }
    if (answer.status === 403) return "token";
    if (FOR_GOOD.has(answer.status)) {
      const said = await answer.json().catch(() => ({}));
      const sentence = said.faults ? said.faults[0].sentence : t("The server refused this entry.");
      await this.setAside(taps.map((tap) => ({ id: tap.id, sentence })), taps);
      return "sent";
    }
    const found = answer.ok ? await answer.json().catch(() => null) : null;
    if (!found) return "server";
    this.setClock(found.now_ms);
    await this.setAside(found.refused, taps);
    await this.forget(taps.map((tap) => tap.id));
    this.hears.sent(found);
    return "sent";
  }

  // Resolves once nothing waits any more, or after a while all the same.
  async settled(most) {
    const until = performance.now() + most;
    while (performance.now() < until && (this.adding > 0 || this.sending || (await this.waiting()).length > 0)) await new Promise((resolve) => setTimeout(resolve, 50));
  }

  async forget(ids) {
    const gone = new Set(ids);
    this.loose = this.loose.filter((tap) => !gone.has(tap.id));
    const box = await this.boxed;
    if (box) await change(box, "taps", (store) => ids.forEach((id) => store.delete(id))).catch(() => {});
  }

  // What is refused for good is kept beside the queue: it neither blocks the rest nor is sent for ever.
  async setAside(refused, taps) {
    if (refused.length === 0) return;
    const rows = refused.map((one) => ({ id: one.id, job: this.job, sentence: one.sentence, event: (taps.find((tap) => tap.id === one.id) || {}).event }));
    const box = await this.boxed;
    if (box) await change(box, "aside", (store) => rows.forEach((row) => store.put(row))).catch(() => {});
    await this.forget(rows.map((row) => row.id));
    this.looseAside = [...(this.looseAside || []), ...(box ? [] : rows)];
    this.hears.aside(await this.refused(), rows.map((row) => row.id));
  }

  async refused() {
    const box = await this.boxed;
    const kept = box ? await asked(box.transaction("aside").objectStore("aside").index("job").getAll(this.job)).catch(() => []) : [];
    return [...kept, ...(this.looseAside || [])];
  }

  async clearAside() {
    const box = await this.boxed;
    const rows = await this.refused();
    this.looseAside = [];
    if (box) await change(box, "aside", (store) => rows.forEach((row) => store.delete(row.id))).catch(() => {});
    this.hears.aside([]);
  }
}
