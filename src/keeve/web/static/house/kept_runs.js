// The worker that keeps run pages, where a browser has one: not on plain http across a network.

const list = document.querySelector("[data-kept]");
if (list && "caches" in window) {
  const title = (text) => new DOMParser().parseFromString(text, "text/html").title.split(" · ")[0];
  caches.open("keeve-runs").then(async (runs) => {
    const kept = await runs.keys();
    document.querySelector("[data-none]").hidden = kept.length > 0;
    for (const one of [...kept].reverse()) {
      const link = document.createElement("a");
      link.href = new URL(one.url).pathname;
      link.textContent = title(await (await runs.match(one)).text());
      list.appendChild(document.createElement("li")).append(link);
    }
  });
}
if ("serviceWorker" in navigator) {
  navigator.serviceWorker.register("/worker.js", { updateViaCache: "none" }).catch(() => {});
  navigator.serviceWorker.ready.then((worker) => {
    if (/^\/jobs\/[^/]+\/mixer$/.test(location.pathname)) worker.active.postMessage({ keep: location.pathname });
  });
  navigator.serviceWorker.addEventListener("message", (event) => {
    if (event.data && event.data.kept === location.pathname) document.documentElement.dataset.kept = "1";
  });
}
