"""A scale or a meter that is not there: it swings, drifts, runs out of battery and comes unplugged like one that is."""

import random
from typing import Final

from keeve.devices.protocol import Command, Device, Practise, Reading

_SETTLES_S: Final = 0.5
"""Time constant of a load that swings to rest."""
_STABLE_STEPS: Final = 1.0
_DRIFT_PER_S: Final = 0.02
"""Steps a second of a scale whose zero wanders."""
_LOW_PERCENT: Final = 7
_FULL_PERCENT: Final = 92


class SimulatedDevice:
    """One stand-in, stepped by time: the same seed and the same steps give the same readings.

    Parameters
    ----------
    device : what it stands in for
    seed : of its noise
    """

    def __init__(self, device: Device, seed: int = 1) -> None:
        self.device = device
        self._random = random.Random(seed)  # noqa: S311 - noise of a toy, no secret
        self._true = self._shown = self._tare = self._wandered = self._per_s = 0.0
        self._drifts = False
        self._plugged_in = True
        self._battery = _FULL_PERCENT
        self._seq = 0
        self._still_s = 10.0

    def ask(self, asked: Command | Practise) -> None:
        """Do what a hand or a page asks."""
        match asked.do:
            case "tare" | "zero":
                self._tare = self._true + self._wandered
            case "pour":
                self._per_s = asked.per_s if isinstance(asked, Practise) else 0.0
                self._true += asked.much if isinstance(asked, Practise) else 0.0
                self._still_s = 0.0
            case "stop":
                self._per_s = 0.0
            case "take off":
                self._true = self._per_s = 0.0
                self._still_s = 0.0
            case "drift":
                self._drifts = not self._drifts
            case "battery low":
                self._battery = _LOW_PERCENT
            case "unplug":
                self._plugged_in = not self._plugged_in

    def step(self, dt_s: float) -> Reading | None:
        """Let time pass.

        Parameters
        ----------
        dt_s : seconds since the last step

        Returns
        -------
        what it shows now; None while it is unplugged
        """
        poured = self._per_s * dt_s
        self._true += poured
        self._still_s = 0.0 if poured > 0 else self._still_s + dt_s
        if self._drifts:
            self._wandered += _DRIFT_PER_S * self.device.step * dt_s
        meter = self.device.kind == "water meter"
        share = 1.0 if meter else min(1.0, dt_s / _SETTLES_S)
        self._shown += (self._true - self._shown) * share
        if not self._plugged_in:
            return None
        self._seq += 1
        step = self.device.step
        swings = 0.0 if meter or self._still_s > 3 * _SETTLES_S else self._random.uniform(-1, 1) * step
        value = round((self._shown + self._wandered - self._tare + swings) / step) * step
        resting = abs(self._true - self._shown) < _STABLE_STEPS * step and self._still_s > 3 * _SETTLES_S
        return Reading(
            seq=self._seq,
            value=round(value, 6),
            stable=resting,
            battery_percent=None if meter else self._battery,
            overload=self._true > self.device.most,
        )
