"use strict";
// An EventSource that lasts. The browser's own gives up for good where the server answers that it is busy or just
// starting; this one asks again. What is told twice then is known by its id.
globalThis.keeveSource = (() => {
  const KINDS = ["tap", "ticket", "beat"];
  const AGAIN_MS = 3000;

  return (address, heard) => {
    let source = null;
    let over = false;
    const open = () => {
      if (over) return;
      source = new EventSource(address);
      for (const kind of KINDS) source.addEventListener(kind, (event) => heard(kind, JSON.parse(event.data)));
      source.addEventListener("error", () => { if (source.readyState === EventSource.CLOSED) setTimeout(open, AGAIN_MS); });
    };
    open();
    return { close() { over = true; source.close(); } };
  };
})();
