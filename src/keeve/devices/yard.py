"""Which devices a yard has: the stand-ins that ship, and real ones it is told of."""

from typing import Final

from keeve.devices.protocol import Device

STAND_INS: Final = (
    Device(key="hanging-scale", name="Hanging scale, stand-in", kind="hanging scale", step=0.02, most=50),
    Device(key="bench-scale", name="Bench scale, stand-in", kind="bench scale", step=0.01, most=60),
    Device(key="water-meter", name="Water meter, stand-in", kind="water meter", step=0.01, most=5000),
)
_SHOWS: Final = {"hanging scale": (0.02, 50.0), "bench scale": (0.01, 60.0), "water meter": (0.01, 5000.0)}


def devices_of(told: str) -> dict[str, Device]:
    """Read which devices there are.

    Parameters
    ----------
    told : real ones with semicolons between, each `key = kind @ ws://127.0.0.1:port/path`

    Returns
    -------
    by key: the real ones, then the stand-ins

    Raises
    ------
    ValueError : one of them cannot be read

    >>> list(devices_of("hook = hanging scale @ ws://127.0.0.1:9000/"))[0]
    'hook'
    """
    found: dict[str, Device] = {}
    for part in filter(None, (one.strip() for one in told.split(";"))):
        try:
            key, rest = (one.strip() for one in part.split("=", 1))
            kind, address = (one.strip() for one in rest.split("@", 1))
            step, most = _SHOWS[kind]
        except (ValueError, KeyError):
            raise ValueError(f"This device cannot be read: {part[:80]}") from None
        if not address.startswith(("ws://127.0.0.1:", "ws://localhost:", "ws://[::1]:")):
            raise ValueError(f"A device is asked on this machine only: {address[:80]}")
        found[key] = Device(key=key, name=key.replace("-", " "), kind=kind, step=step, most=most, address=address)
    return found | {one.key: one for one in STAND_INS}
