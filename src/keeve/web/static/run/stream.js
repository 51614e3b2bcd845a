// Hears what other phones tap. One stream serves every tab of a browser where it can: a browser holds only six.

import { source } from "./source.js";

export const hear = (address, worker, heard) => {
  if ("SharedWorker" in window) {
    try {
      const shared = new SharedWorker(worker, { type: "module" });
      shared.port.onmessage = (message) => { if (message.data.address === address) heard(message.data.kind, message.data.data); };
      shared.port.start();
      shared.port.postMessage({ follow: address });
      window.addEventListener("pagehide", () => shared.port.postMessage({ leave: address }));
      window.addEventListener("pageshow", (event) => { if (event.persisted) shared.port.postMessage({ follow: address }); });
      return;
    } catch {
      // Some browsers have the name and refuse the thing: then each tab listens for itself.
    }
  }
  source(address, heard);
};
