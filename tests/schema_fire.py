"""Requests made up from the schema the app tells of itself, sent to every route, for tests and for a script."""

import http.client
import re
import time
import urllib.request
from collections import Counter
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

CHECKS = [not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance]
LONGEST_S = 2.0
NOT_MADE_UP = ("cookie", "x-keeve-token", "accept", "authorization")
NEVER_SENT = ("/jobs/{job_id}/stream",)
"""Endless by its nature."""


class Yard:
    """A server, a visitor's cookie and token, and the names of what is really there."""

    def __init__(self, address: str) -> None:
        self.address = address
        with urllib.request.urlopen(f"{address}/", timeout=60) as page:
            self.cookie = page.headers["set-cookie"].split(";")[0]
            html = page.read().decode()
        self.headers = {
            "cookie": self.cookie, "x-keeve-token": re.findall(r'name="token" content="([^"]+)"', html)[0],
            "accept": "text/html, application/json",
        }  # fmt: skip
        self.real: dict[str, list[str]] = {"job_id": re.findall(r'href="/jobs/([^/"]+)/', html)}
        for name, path, pattern in (
            ("key", "/book", r'href="/book/([\w-]+)"'),
            ("key", "/book/own/sands", r'href="/book/own/sands/([^"/]+)"'),
        ):
            request = urllib.request.Request(f"{address}{path}", headers=self.headers)
            with urllib.request.urlopen(request, timeout=60) as page:
                self.real.setdefault(name, []).extend(re.findall(pattern, page.read().decode())[:20])


def attack(yard: Yard, examples: int, *, longest_s: float = LONGEST_S) -> Counter[str]:
    """Send so many made-up requests to each route; returns how many answers there were of each status.

    Raises
    ------
    Exception : an answer of the server's own failure, or one the schema does not tell of
    """
    schema = schemathesis.openapi.from_url(f"{yard.address}/openapi.json")
    found: Counter[str] = Counter()
    for made in schema.get_all_operations():
        operation = made.ok()  # type: ignore[union-attr]
        if operation.path not in NEVER_SENT:
            _attack_one(yard, operation, examples, found, longest_s)
    return found


def _attack_one(yard: Yard, operation: Any, examples: int, found: Counter[str], longest_s: float) -> None:
    cases = st.one_of(
        operation.as_strategy(generation_mode=GenerationMode.POSITIVE),
        operation.as_strategy(generation_mode=GenerationMode.NEGATIVE),
    )

    @settings(
        max_examples=examples, deadline=None, derandomize=True, database=None, phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @given(case=cases, there=st.integers(0, 1000))
    def send(case: Any, there: int) -> None:
        for name in case.path_parameters or {}:
            if name in yard.real and there % 4:  # mostly something that is really there
                case.path_parameters[name] = yard.real[name][there % len(yard.real[name])]
        headers = {name: value for name, value in (case.headers or {}).items() if name.lower() not in NOT_MADE_UP}
        case.headers = headers | yard.headers
        case.cookies = {}
        began = time.monotonic()
        try:
            answer = case.call(base_url=yard.address, timeout=60)
        except (http.client.HTTPException, ValueError):
            return  # what cannot even be written as a request is not sent
        took_s = time.monotonic() - began
        found[str(answer.status_code)] += 1
        assert took_s < longest_s, f"{operation.method} {operation.path} took {took_s:.1f} s"
        case.validate_response(answer, checks=CHECKS)

    send()
