// Written by scripts/twins.py from the core: change it there.

export const OF_LOAD = new Set(["started", "poured", "step_done", "step_back", "judged", "dry_added", "measured", "weighed", "stage_seen", "accepted", "thrown_away", "settled"]);
export const SAME_TAP_MS = 3000;
export const DAY_MS = 57600000;
export const NEAR = 1e-06;
export const ROOM = 1.005;
export const OVER_L = 0.005;
export const SMALLEST_SHARE = 0.001;
export const MOST_AT_ONCE_L = 500;
export const PLASTER_REF_C = 21;
export const PLASTER_FASTEST_C = 35;
export const PACE_LEAST = 0.333333333333;
export const PACE_MOST = 3;
