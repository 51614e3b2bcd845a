"""What the run page shows of a ticket in words and units; the page itself knows neither."""

from typing import Any, Final, cast

from keeve.core.measure.units import FT3_M3, GAL_L, LB_KG, MASS_KG, VOLUME_L
from keeve.core.message.said import Words, mark
from keeve.core.procedures.consistency import CLASSES, CONE_MM, NEAR_DENSITY, SLUMP_STEP_MM, SLUMP_TELLS_MM
from keeve.core.run.events import MeasuredKind
from keeve.core.ticket.cards import StepPart, TicketCard, TicketDose
from keeve.core.ticket.ticket import Ticket
from keeve.core.vessels.instruments import METRIC_JUG_L, US_JUG_L, jug_steps_l
from keeve.core.vessels.tolerance import allowed_percent
from keeve.core.vessels.vessels import brim_l
from keeve.web.drawings.poured import jug_drawn
from keeve.web.stations.mixer.run_document import (
    Amounts,
    CardTold,
    Jug,
    JugTold,
    MassTold,
    Measures,
    Scoop,
    Told,
    UnitTold,
    Want,
    Weigh,
)
from keeve.words import saying
from keeve.words.putting import put, t
from keeve.words.reader import METRIC, Reader, decimal_mark
from keeve.words.showing import show_litres


def _jug_label(litres: float, reader: Reader) -> str:
    number, unit = show_litres(litres, reader)
    return f"+ {number.rstrip('0').rstrip('.') if '.' in number else number} {unit}"


def _jugs(card: TicketCard, steps_l: tuple[float, ...], reader: Reader) -> list[Jug]:
    """Say the taps that pour: in litres, or in whole seconds where the crew goes by the hose."""
    by = card.water.by
    if by.means != "hose":
        return [{"litres": litres, "label": _jug_label(litres, reader)} for litres in steps_l]
    seconds = dict.fromkeys(max(round(litres / by.step_l), 1) for litres in steps_l)
    return [{"litres": n * by.step_l, "label": t(reader, "+ {seconds} s", seconds=str(n))} for n in seconds]


_WHOLE: Final = 1 - 1e-6
LB_FT3_KG_M3: Final = LB_KG / FT3_M3


def _weigh(part: StepPart, card: TicketCard, reader: Reader) -> Weigh | None:
    """Say what the scale should show, for what goes by the scale."""
    dose = next((d for d in card.doses if d.key == part.key), None)
    if dose is not None and dose.means == "scale" and dose.weighing is not None and part.share > _WHOLE:
        one = dose.weighing
        tare = one.tare_kg  # the scale shows the vessel too, one at a time
        nets = [one.reading_kg - tare] * (one.vessels - 1) + [one.last_kg - tare]
        return _on_scale(part, dose, nets, tare, one.unit)
    if (
        dose is None
        or (dose.fill is not None and dose.means != "scale")
        or dose.means == "counts"
        or (dose.packs is not None and saying.bags(dose.packs * part.share, METRIC))
    ):
        return None
    return _on_scale(part, dose, [part.batch_kg], 0.0, "lb" if reader.us else "kg")


def _on_scale(part: StepPart, dose: TicketDose, nets: list[float], tare_kg: float, unit: str) -> Weigh:
    """Say what lies in each vessel [kg], how far off it may be, and what the scale shows besides."""
    allowed = allowed_percent(dose.role)
    return {
        "wanted_kg": nets[0], "tare_kg": tare_kg, "role": dose.role, "part": part.key, "vessels": len(nets),
        "readings": nets, "allowed": allowed, "unit": unit,
    }  # fmt: skip


def _scoop(dose: TicketDose, ticket: Ticket, reader: Reader) -> Scoop | None:
    """Say how a constituent is gauged: what one struck gauge of it weighs as it lies."""
    if dose.fill is None or dose.gauged_l <= 0:
        return None
    gauge = ticket.measure(dose.fill.container)
    return {"said": saying.forms_of(gauge.short, reader), "kg": dose.batch_kg / dose.gauged_l * brim_l(gauge.section)}


def _card(card: TicketCard, ticket: Ticket, reader: Reader) -> CardTold:
    water = card.water
    steps_l = jug_steps_l(saying.sip_l(card, reader), water.first_l, US_JUG_L if reader.us else METRIC_JUG_L)
    return {
        "jugs": _jugs(card, steps_l, reader),
        "steps": [
            {
                "title": put(step.title, reader),
                "detail": put(step.detail, reader),
                "speed": step.speed,
                "cautions": [put(words, reader) for words in step.cautions],
                "lines": [
                    {"key": i, "name": name, "amount": amount, "exact": exact, "weigh": _weigh(part, card, reader),
                     "water": part.key == "water"}
                    for i, (part, (name, amount, exact)) in enumerate(
                        zip(step.parts, saying.step_lines(step, card, ticket, reader), strict=True)
                    )
                ],
            }
            for step in card.steps
        ],
        "scoops": {d.key: _scoop(d, ticket, reader) for d in card.doses},
    }  # fmt: skip


_BOUNDS: Final = {"density": (100, 4000), "temperature": (-20, 60), "air": (0, 40), "slump": (0, CONE_MM)}
"""What a reading can be: a cone is no higher than itself."""


def _want(what: MeasuredKind, name: Words, reader: Reader, **more: Any) -> Want:
    """Say how one thing is measured: a figure times `per_unit`, plus `from`, is in mm, %, kg/m³ or °C."""
    inch = ("in", 25.4, 0.0, 2)
    units: dict[str, tuple[str, float, float, int]] = {
        "density": ("lb/ft³", LB_FT3_KG_M3, 0.0, 1) if reader.us else ("kg/m³", 1.0, 0.0, 0),
        "temperature": ("°F", 5 / 9, -160 / 9, 0) if reader.us else ("°C", 1.0, 0.0, 0),
        "air": ("%", 1.0, 0.0, 1),
    }
    percent = more.get("low") is not None and what == "flow" and more.pop("percent", False)
    unit, per_unit, zero, places = units.get(what, inch if reader.us and not percent else ("mm", 1.0, 0.0, 0))
    bounds = _BOUNDS.get(what, (0, 2000))
    beyond = [SLUMP_TELLS_MM, t(reader, "so soft a slump tells nothing: measure how wide it flows")]
    usual: dict[str, Any] = {
        "low": None,
        "high": None,
        "under": "",
        "over": "",
        "round": 0,
        "classes": [],
        "beyond": [],
    }
    known = {
        "what": what, "name": put(name, reader), "unit": "%" if percent else unit, "per_unit": per_unit, "from": zero,
        "places": places, "least": bounds[0], "most": bounds[1], "beyond": beyond if what == "slump" else [],
    }  # fmt: skip
    return cast(Want, usual | more | known)


def _wants(ticket: Ticket, reader: Reader) -> list[Want]:
    """List what may be measured of a load, with what it should come to."""
    found: dict[str, Want] = {}
    units: dict[str, str] = {}
    # Who reads inches is told the flow in per cent first, as ASTM C270 has it.
    goals = sorted(ticket.look.targets, key=lambda one: reader.us and one.measure == "flow" and one.unit != "%")
    for goal in goals:
        kind: MeasuredKind = goal.measure  # type: ignore[assignment]
        if kind == "density" or goal.low < 0:
            continue
        stiff, soft = t(reader, "too stiff"), t(reader, "too soft")
        if kind in found:  # several uses: anything any of them takes; another table's figure is not asked for
            if goal.unit != units[kind]:
                continue
            was = found[kind]
            was["low"], was["high"] = min(was["low"] or goal.low, goal.low), max(was["high"] or goal.high, goal.high)
            continue
        units[kind] = goal.unit
        rounded = {"round": SLUMP_STEP_MM, "classes": [[low, name] for low, name in CLASSES.get(kind, ())]}
        found[kind] = _want(
            kind, goal.measure, reader, low=goal.low, high=goal.high, under=stiff, over=soft,
            percent=goal.unit == "%", **(rounded if kind in CLASSES else {}),
        )  # fmt: skip
    fresh = ticket.cards[0].fresh_kg / ticket.cards[0].volume_m3
    off = next((one.high for one in ticket.look.targets if one.measure == "density"), fresh * NEAR_DENSITY)
    light, heavy = t(reader, "light: more water or air in it than planned"), t(reader, "heavy: less water or air in it")
    density = _want(
        "density", mark("fresh density"), reader, low=fresh - off, high=fresh + off,
        under=light, over=heavy,
    )  # fmt: skip
    # A pressure meter is for what is tested for its flow: concrete and mortar.
    air = [_want("air", mark("air in it"), reader)] if found else []
    return [*found.values(), *air, density, _want("temperature", mark("temperature"), reader)]


def _vessels(ticket: Ticket, reader: Reader) -> dict[str, float]:
    """Say how the ticket's vessels may be called where water is typed, and what each holds [L]."""
    found = {"s": ticket.hose_l_min / 60, "sec": ticket.hose_l_min / 60} if ticket.hose_l_min else {}
    for vessel in (ticket.jug, *ticket.measures):
        for form in saying.forms_of(vessel.short, reader):
            found[form.replace("{count}", "").strip().lower()] = brim_l(vessel.section)
    return found


_POURED: Final = {
    "oz": GAL_L / 128, "ounce": GAL_L / 128, "cup": GAL_L / 16, "pint": GAL_L / 8, "quart": GAL_L / 4, "gallon": GAL_L,
    "dl": 0.1, "kg": 1.0, "g": 0.001, "lb": LB_KG, "pound": LB_KG,
}  # fmt: skip
"""Poured, an ounce is a fluid one, and a kilogram of water is a litre within 0.3 %."""


def amounts() -> Amounts:
    """Return what a typed unit comes to, for the page: units are turned here, never in the browser."""
    water = {name.lower(): litres for name, litres in VOLUME_L.items()} | _POURED
    return {"water": water, "mass": {name.lower(): kg for name, kg in MASS_KG.items()}}


def told(ticket: Ticket, reader: Reader) -> Told:
    """Put all that a ticket says on the run page into the reader's words.

    Parameters
    ----------
    ticket : the ticket
    reader : of the reader

    Returns
    -------
    steps, amounts, jug taps and advice, as the page shows them
    """
    return {
        "mix": put(ticket.mix_name, reader),
        "mixer": put(ticket.mixer.name, reader),
        "names": {d.key: put(d.name, reader) for d in ticket.cards[0].doses},
        "cards": [_card(card, ticket, reader) for card in ticket.cards],
        "vessels": _vessels(ticket, reader),
        "jug": cast(JugTold, jug_drawn(ticket, reader)),
        "too_dry": put(ticket.rescue.too_dry, reader),
        "stiffened": put(ticket.rescue.stiffened, reader),
        "too_wet": put(ticket.rescue.too_wet, reader),
        "cautions": [put(c, reader) for c in ticket.cautions],
        "stages": [
            {"name": put(s.name, reader), "look": put(s.look, reader), "good_for": put(s.good_for, reader)}
            for s in ticket.stages
        ],
        "wants": _wants(ticket, reader),
    }


def measures(reader: Reader) -> Measures:
    """Return how the page says a count of water and a mass: units are turned here, never in the browser."""
    decimal = decimal_mark(reader.language)
    if reader.us:
        ounce: UnitTold = {"unit": "oz", "per_unit": LB_KG / 16}
        kilos: MassTold = {"unit": "lb", "per_unit": LB_KG, "below_one": ounce}
        return {"decimal": decimal, "litres": {"unit": "qt", "per_unit": GAL_L / 4}, "kilos": kilos}
    gram: UnitTold = {"unit": "g", "per_unit": 0.001}
    return {
        "decimal": decimal,
        "litres": {"unit": "L", "per_unit": 1.0},
        "kilos": {"unit": "kg", "per_unit": 1.0, "below_one": gram},
    }
