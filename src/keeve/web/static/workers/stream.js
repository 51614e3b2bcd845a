// One stream an address, for all tabs.
import { source } from "../run/source.js";

const streams = new Map();

const follow = (address, port) => {
  let stream = streams.get(address);
  if (!stream) {
    const ports = new Set();
    const tell = (kind, data) => { for (const one of ports) one.postMessage({ address, kind, data }); };
    stream = { source: source(address, tell), ports };
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
