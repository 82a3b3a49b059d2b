"""What a log told, as JSON and in lines for the terminal."""

from __future__ import annotations

from ironmargin.document import Document
from ironmargin.learning.learn import TOLD, Found
from ironmargin.per_cent import PLACES, percent
from ironmargin.setup.reading import write_setup

LEARNED_FORMAT = "iron-margin/learned"


def _figures(found: Found) -> list[Document]:
    return [
        {
            "field": f.field,
            "label": f.label,
            "before": round(f.before, 4),
            "after": round(f.after, 4),
            "low": round(f.low, 4),
            "high": round(f.high, 4),
            "unit": f.unit,
            "was": f.was,
            "from": "measured",
            "entries": list(f.entries),
            "moves": round(f.moves, PLACES),
        }
        for f in found.figures
    ]


def learned_json(found: Found) -> Document:
    """The JSON object of what a log told.

    Args:
        found: what a log told.

    Returns:
        The JSON object.
    """
    entries = []
    for j in found.entries:
        one: Document = {"entry": j.entry, "figure": j.figure}
        if j.measured is not None:
            one["measured"] = round(j.measured, 4)
        if j.predicted is not None:
            one["predicted"] = {
                name: round(x, 3) for name, x in zip(("p5", "p50", "p95"), j.predicted, strict=True)
            }
        entries.append(one | {"judged": j.judged, "sentence": j.sentence})
    out: Document = {
        "format": LEARNED_FORMAT,
        "version": 1,
        "entries": entries,
        "figures": _figures(found),
    }
    if found.choices:
        out["choices"] = [
            {"field": c.field, "label": c.label, "before": c.before, "after": c.after,
             "sure": round(c.sure, 3), "entries": list(c.entries)}
            for c in found.choices
        ]  # fmt: skip
    if found.odds:
        out["odds"] = [
            {"load": o.load, "before": round(o.before, 3), "after": round(o.after, 3)}
            for o in found.odds
        ]
    if found.noise is not None:
        out["noise"] = {
            "at_1m_dba": round(found.noise.at_1m_dba, 2),
            "per_doubling_db": round(found.noise.per_doubling_db, 2),
            "residual_db": round(found.noise.residual_db, 2),
            "exhaust_db": round(found.noise.exhaust_db, 2),
            "eco_db": round(found.noise.eco_db, 2),
            "sentence": found.noise.sentence,
        }
    if found.fuel:
        lines = [
            {
                "fuel": f.fuel,
                "a": round(f.a, 4),
                "b": round(f.b, 4),
                "litres_per_h_at": {w: round(x, 3) for w, x in f.litres_per_h_at.items()},
            }
            | ({"cost_per_h": round(f.cost_per_h, 3)} if f.cost_per_h is not None else {})
            for f in found.fuel
        ]
        out["fuel"] = lines[0]
        if len(lines) > 1:
            out["fuels"] = lines
    if found.drift:
        out["drift"] = [
            {
                "load": d.load,
                "figure": d.figure,
                "per_month": round(d.per_month, 4),
                "low": round(d.low, 4),
                "high": round(d.high, 4),
                "sentence": d.sentence,
            }
            for d in found.drift
        ]
    if found.effective is not None:
        out["sampling"] = {"effective": round(found.effective, 1), "rounds": found.rounds}
    for name, (verdict, margin) in (("before", found.before), ("after", found.after)):
        out[name] = {"verdict": verdict, "iron_margin": round(margin, PLACES)}
    out["setup"] = write_setup(found.setup)
    return out


def learned_words(found: Found) -> str:
    """What a log told, in lines.

    Args:
        found: what a log told.

    Returns:
        Lines for the terminal.
    """
    lines = [f"{j.entry:>3}  {j.judged:<14} {j.sentence}" for j in found.entries]
    if found.figures:
        lines.append("")
    lines += [
        f"{f.label}: {f.before:.4g} → {f.after:.4g} ({f.low:.4g} to {f.high:.4g}) {f.unit}, "
        f"was {f.was}"
        for f in found.figures
    ]
    lines += [
        f"{c.label}: {c.before} → {c.after}, {c.sure * 100:.0f} in 100 sure" for c in found.choices
    ]
    lines += [
        f"{o.name} starts {o.before * 100:.0f} → {o.after * 100:.0f} times in 100"
        for o in found.odds
        if abs(o.after - o.before) >= TOLD
    ]
    lines += [d.sentence for d in found.drift]
    if found.noise is not None:
        noise = found.noise
        lines.append(
            f"Noise: {noise.at_1m_dba:.0f} dBA at 1 m, {noise.per_doubling_db:.1f} dB less for "
            f"each doubling; {noise.sentence}."
        )
    for f in found.fuel:
        half = list(f.litres_per_h_at.items())[1]
        lines.append(f"{f.fuel.capitalize()}: {half[1]:.2f} l an hour at {half[0]} W.")
    (was, had), (now, has) = found.before, found.after
    lines.append(f"Before: {was}, {percent(had)}. With what was learned: {now}, {percent(has)}.")
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)
