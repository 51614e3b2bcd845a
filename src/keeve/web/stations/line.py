"""The line on which a page of stations 1 to 3 gets its answers.

To ask by a request each time takes a browser and a server longer than many an answer takes to be worked out.
"""

import json
from typing import Annotated, Final

import structlog
from fastapi import APIRouter, HTTPException, Query, WebSocket, WebSocketDisconnect
from fastapi.concurrency import run_in_threadpool

from keeve.web.asking.deps import View
from keeve.web.edge.bodies import fault_of, text_from
from keeve.web.edge.bounds import Visitors, address_of
from keeve.web.stations.answering import answered
from keeve.words.beside import with_units

router = APIRouter()
log = structlog.stdlib.get_logger("keeve.line")

NOT_SO: Final = 1008
BROKEN: Final = 1011
BUSY: Final = 1013


@router.websocket("/jobs/{job_id}/line")
async def station_line(socket: WebSocket, job_id: str, view: Annotated[View, Query()]) -> None:
    """Answer each sheet that comes as `station_answer` does.

    What cannot be answered ends the line: the page asks again by a request, and is told in words what is wrong.
    """
    visitors: Visitors = socket.app.state.visitors
    client = address_of(socket)
    many, code = 0, NOT_SO
    try:
        with visitors.standing_open(client, "line"):
            await socket.accept()
            while True:
                text = await text_from(socket)
                async with visitors.at_work(client):
                    answer = await run_in_threadpool(_answer, socket, job_id, text, view)
                await socket.send_text(answer)
                many += 1
    except WebSocketDisconnect:
        log.info("line", path=socket.url.path, answers=many)
        return
    except HTTPException:
        code = BUSY
    except (ValueError, RecursionError):
        pass  # no sheet
    except Exception:  # as at a request: it must not take the server down, and must be found in the log
        log.exception("fault", path=socket.url.path)
        code = BROKEN
    await socket.close(code)


def _answer(socket: WebSocket, job_id: str, text: str, view: View) -> str:
    sheet = json.loads(text)
    if not isinstance(sheet, dict) or fault_of(sheet) is not None:
        raise ValueError
    return json.dumps(answered(socket, job_id, with_units(sheet), view), ensure_ascii=False)
