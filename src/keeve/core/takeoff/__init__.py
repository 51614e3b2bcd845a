"""From the things to be filled to a volume."""

from keeve.core.takeoff.need import Need, NeedItem, take_off
from keeve.core.takeoff.shapes import Shape
from keeve.core.takeoff.sureness import Sureness, sureness

__all__ = ["Need", "NeedItem", "Shape", "Sureness", "sureness", "take_off"]
