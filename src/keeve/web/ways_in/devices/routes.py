"""Readings of scales and meters, live: a stand-in for each line, or a real device passed on."""

import asyncio
import contextlib
import json
import time
from typing import Final

import structlog
import websockets
from fastapi import APIRouter, HTTPException, Request, WebSocket, WebSocketDisconnect
from pydantic import ValidationError

from keeve.core.message.errors import Frozen
from keeve.core.message.said import mark
from keeve.devices.protocol import READINGS_HZ, Device, DeviceKind, read_asked, read_reading
from keeve.devices.simulated import SimulatedDevice
from keeve.devices.yard import devices_of
from keeve.web.asking.deps import ReadBy
from keeve.web.edge.answers import REFUSALS
from keeve.web.edge.bodies import text_from
from keeve.web.edge.bounds import Visitors, address_of
from keeve.words.putting import t

router = APIRouter(tags=["devices"], responses=REFUSALS)
log = structlog.stdlib.get_logger("keeve.devices")
MOST_LETTERS: Final = 2000
LONGEST_S: Final = 3600.0
MOST_OPEN: Final = 40
_open: set[WebSocket] = set()
_NAMES: Final = {
    "hanging-scale": mark("Hanging scale, stand-in"),
    "bench-scale": mark("Bench scale, stand-in"),
    "water-meter": mark("Water meter, stand-in"),
}


class ShownDevice(Frozen):
    """A device somebody can choose."""

    key: str
    name: str
    kind: DeviceKind
    step: float
    stand_in: bool


@router.get("/devices", name="devices")
def devices(request: Request, reader: ReadBy) -> list[ShownDevice]:
    """List the scales and meters there are; `/devices/KEY` is the WebSocket of each."""
    found = devices_of(request.app.state.settings.devices)
    return [
        ShownDevice(
            key=one.key,
            name=t(reader, _NAMES[one.key]) if one.key in _NAMES else one.name,
            kind=one.kind,
            step=one.step,
            stand_in=not one.address,
        )
        for one in found.values()
    ]


@router.websocket("/devices/{key}")
async def readings(socket: WebSocket, key: str) -> None:
    """Send readings ten times a second, and take what is asked."""
    device = devices_of(socket.app.state.settings.devices).get(key)
    if device is None or len(_open) >= MOST_OPEN:
        await socket.close(1008 if device is None else 1013)
        return
    visitors: Visitors = socket.app.state.visitors
    try:
        with visitors.standing_open(address_of(socket), "device"):
            await socket.accept()
            _open.add(socket)
            async with asyncio.timeout(LONGEST_S):
                await (_passed_on(socket, device) if device.address else _stand_in(socket, device))
    except HTTPException:
        await socket.close(1013)
    except (WebSocketDisconnect, TimeoutError, OSError, RuntimeError):
        pass  # who looked has gone, or the device has
    finally:
        _open.discard(socket)
        with contextlib.suppress(RuntimeError, WebSocketDisconnect):
            await socket.close()


async def _asked(socket: WebSocket) -> str:
    text = await text_from(socket)
    if len(text) > MOST_LETTERS:
        raise WebSocketDisconnect(1009)
    return text


async def _stand_in(socket: WebSocket, device: Device) -> None:
    simulated = SimulatedDevice(device, seed=time.monotonic_ns() % 2**31)

    async def listen() -> None:
        while True:
            with contextlib.suppress(ValidationError, ValueError):
                simulated.ask(read_asked(json.loads(await _asked(socket))))

    listening = asyncio.create_task(listen())
    try:
        while not listening.done():
            reading = simulated.step(1 / READINGS_HZ)
            if reading is not None:
                await socket.send_text(reading.model_dump_json())
            await asyncio.sleep(1 / READINGS_HZ)
    finally:
        listening.cancel()
        with contextlib.suppress(asyncio.CancelledError, WebSocketDisconnect, RuntimeError):
            await listening


async def _passed_on(socket: WebSocket, device: Device) -> None:
    """Pass a real device's readings on, each looked through, and what is asked back to it."""
    async with websockets.connect(device.address, open_timeout=5, max_size=MOST_LETTERS) as real:

        async def listen() -> None:
            while True:
                with contextlib.suppress(ValidationError, ValueError):
                    asked = read_asked(json.loads(await _asked(socket)))
                    await real.send(asked.model_dump_json())

        listening = asyncio.create_task(listen())
        try:
            async for message in real:
                if listening.done():
                    return
                with contextlib.suppress(ValidationError, ValueError):
                    await socket.send_text(read_reading(json.loads(message)).model_dump_json())
        except websockets.ConnectionClosed:
            log.info("device gone", device=device.key)
        finally:
            listening.cancel()
            with contextlib.suppress(asyncio.CancelledError, WebSocketDisconnect, RuntimeError):
                await listening
