"""The load ticket as plain text, for a terminal, a message or a nail on the wall."""

from keeve.core import saying
from keeve.core.mix import Mix
from keeve.core.plan import Plan
from keeve.core.units import System, say, show_litres, show_space


def ticket(plan: Plan, mix: Mix, job: str, system: System = "metric") -> str:
    """Write a plan as a ticket a person can mix from.

    Parameters
    ----------
    plan, mix : what was planned, and the mix it was planned with
    job : name of the job; may be empty
    system : units of the reader

    Returns
    -------
    lines of text
    """
    lines = [
        f"{job or 'Job'}: {mix.name}",
        f"Fill {say(show_space(plan.need.net_m3, system))}, mix {say(show_space(plan.made_m3, system))} "
        f"in {len(plan.loads)} {'load' if len(plan.loads) == 1 else 'loads'}. {plan.reason}",
    ]
    for index, card in enumerate(plan.cards):
        numbers = [load.number for load in plan.loads if load.card == index]
        which = f"Load {numbers[0]}" if len(numbers) == 1 else f"Loads {numbers[0]} to {numbers[-1]}, each"
        lines += ["", f"{which}: {say(show_litres(card.volume_m3 * 1000, system))}"]
        lines += [f"  {d.name:<24} {saying.dose(d, system):<36} {saying.exact(d, system)}" for d in card.doses]
        lines += [f"  {a.name:<24} {saying.admixture(a, system)}, {a.when}" for a in card.admixtures]
        lines.append(f"  {'Water':<24} {saying.water(card, system)}")
        window = card.water.pour
        lines.append(f"  {'never past':<24} {say(show_litres(window.high, system))}")
        lines.append("")
        for number, step in enumerate(card.steps, 1):
            amounts = "; ".join(f"{name}: {amount}" for name, amount, _ in saying.step_lines(step, card, system))
            timer = f" [{step.seconds // 60}:{step.seconds % 60:02d}]" if step.seconds else ""
            lines.append(f"  {number}. {step.title}{timer}{' – ' + amounts if amounts else ''}")
            if step.detail:
                lines.append(f"     {step.detail}")
    target = mix.consistency
    lines += ["", target.test, f"  dry:   {target.dry}", f"  right: {target.right}", f"  wet:   {target.wet}"]
    lines += ["", f"Use within {mix.working_life_min:g} min of the water going in. {mix.late_water.stiffened}"]
    lines += [f"! {warning}" for warning in plan.warnings]
    lines += [f"* {caution.sentence}" for caution in mix.cautions]
    return "\n".join(lines)
