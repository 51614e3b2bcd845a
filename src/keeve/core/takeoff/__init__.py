"""From the things to be filled to a volume."""

from keeve.core.takeoff.need import Need, NeedItem, take_off
from keeve.core.takeoff.shapes import Shape

__all__ = ["Need", "NeedItem", "Shape", "take_off"]
