"use strict";
// One EventSource an address, for all tabs.

const streams = new Map();

const follow = (address, port) => {
  let stream = streams.get(address);
  if (!stream) {
    stream = { source: new EventSource(address), ports: new Set() };
    for (const kind of ["tap", "ticket", "beat"]) {
      stream.source.addEventListener(kind, (event) => {
        const told = { address, kind, data: JSON.parse(event.data) };
        for (const one of stream.ports) one.postMessage(told);
      });
    }
    streams.set(address, stream);
  }
  stream.ports.add(port);
};

const leave = (address, port) => {
  const stream = streams.get(address);
  if (!stream) return;
  stream.ports.delete(port);
  if (stream.ports.size > 0) return;
  stream.source.close();
  streams.delete(address);
};

self.onconnect = (event) => {
  const port = event.ports[0];
  port.onmessage = (message) => {
    if (message.data.follow) follow(message.data.follow, port);
    if (message.data.leave) leave(message.data.leave, port);
  };
};
