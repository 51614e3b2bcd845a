// An EventSource that lasts. The browser's own gives up for good where the server answers that it is busy or just
// starting; this one asks again. What is told twice then is known by its id.
const KINDS = ["tap", "ticket", "beat"];
const AGAIN_MS = 3000;

export const source = (address, heard) => {
  let stream = null;
  let over = false;
  const open = () => {
    if (over) return;
    stream = new EventSource(address);
    for (const kind of KINDS) stream.addEventListener(kind, (event) => heard(kind, JSON.parse(event.data)));
    stream.addEventListener("error", () => { if (stream.readyState === EventSource.CLOSED) setTimeout(open, AGAIN_MS); });
  };
  open();
  return { close() { over = true; stream.close(); } };
};
