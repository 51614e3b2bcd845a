"""A weather station's stand-in: the air of a mild summer's day, the same at the same time of every day."""

import math
from datetime import datetime

from keeve.core.conditions.temperature import MaterialTemperatures
from keeve.core.conditions.weather import AirNow

_COLDEST_H = 5.0


WATER_C = 13.0


def thermometers_c(now: datetime) -> MaterialTemperatures:
    """Read the stand-ins in tap, heap and store: the tap stays cool, the heap lies in the sun."""
    air = station_air(now)
    sunned = round(air.felt_c() + 2, 1)
    return MaterialTemperatures(water_c=WATER_C, aggregate_c=sunned, binder_c=round(air.air_c + 1, 1))


def station_air(now: datetime) -> AirNow:
    """Read the stand-in: coolest at five, warmest at five in the afternoon, driest and windiest then too."""
    hour = now.hour + now.minute / 60
    share = (1 - math.cos((hour - _COLDEST_H) / 24 * 2 * math.pi)) / 2
    air_c = 11 + 12 * share
    return AirNow(
        air_c=round(air_c, 1),
        humidity_percent=round(88 - 45 * share),
        wind_km_h=round(4 + 12 * share),
        ground_c=round(air_c + 4 * share - 1, 1),
        sun_percent=round(80 * max(math.sin((hour - 6) / 12 * math.pi), 0)) if 6 <= hour <= 18 else 0,
    )
