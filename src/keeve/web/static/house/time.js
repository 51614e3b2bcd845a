// Times as people say them.

import { many, t } from "./words.js";

const HOUR_S = 3600;
const SHOWS_SECONDS_S = 600;

export const clock = (seconds) => {
  const s = Math.max(0, Math.round(Math.abs(seconds)));
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
};
// 4 h 35 min; 35 min; under ten minutes 9:59.
export const spell = (seconds) => {
  const s = Math.max(0, Math.round(Math.abs(seconds)));
  if (s < SHOWS_SECONDS_S) return clock(s);
  const minutes = Math.floor(s / 60);
  if (s < HOUR_S) return t("{minutes} min", { minutes });
  const hours = Math.floor(minutes / 60);
  if (hours >= 48) return many("{n} day", "{n} days", Math.round(hours / 24));
  const rest = minutes % 60;
  return rest ? t("{hours} h {minutes} min", { hours, minutes: rest }) : t("{hours} h", { hours });
};
export const ofDay = (ms) => new Date(ms).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
