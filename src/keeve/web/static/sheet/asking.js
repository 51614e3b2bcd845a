// Asks what comes of a sheet: on a line to the server that stays open, or by a request where there is none. On the line
// one sheet is on its way at a time and the newest is next; what a newer sheet has overtaken is not said.

export const asking = ({ plan, line, view }, said, failed) => {
  const LINE_AGAIN_MS = 30000;
  let wire = null;
  let notBefore = 0;
  let flying = null;
  let next = null;
  let request = null;

  const byRequest = async (text) => {
    const mine = new AbortController();
    request = mine;
    try {
      const answer = await fetch(`${plan}?view=${view}`, { method: "POST", headers: { "content-type": "application/json" }, body: text, signal: mine.signal });
      const found = answer.headers.get("content-type").startsWith("application/json") ? await answer.json() : { answer: await answer.text(), faults: [] };
      if (request === mine) said(found);
    } catch (error) {
      if (error.name !== "AbortError") failed();
    }
  };

  const send = (text) => {
    flying = text;
    next = null;
    wire.send(text);
  };

  const connect = () => {
    if (!line || wire || performance.now() < notBefore) return;
    const one = new WebSocket(`${location.origin.replace(/^http/, "ws")}${line}?view=${view}`);
    wire = one;
    one.onmessage = (message) => {
      flying = null;
      if (next !== null) send(next);
      else said(JSON.parse(message.data));
    };
    // It ends with the server, and at a sheet that needs a word of refusal: the request gets it.
    one.onclose = () => {
      wire = null;
      notBefore = performance.now() + LINE_AGAIN_MS;
      const left = next === null ? flying : next;
      flying = next = null;
      if (left !== null) byRequest(left);
    };
  };

  const ask = (sheet) => {
    const text = JSON.stringify(sheet);
    if (request) request.abort();
    request = null;
    if (!wire || wire.readyState !== WebSocket.OPEN) { byRequest(text); connect(); }
    else if (flying === null) send(text);
    else next = text;
  };

  connect();
  // A page that is kept to go back to may hold no line: it takes a new one when something is asked.
  window.addEventListener("pagehide", () => { if (wire) wire.close(); });
  return ask;
};
