"""Scripts of the bench: any of them, read and written, and the same again."""

from __future__ import annotations

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ironmargin.__main__ import main
from ironmargin.bench.clock import Bench
from ironmargin.bench.hands import UPSTREAM
from ironmargin.bench.script import Act, Begin, read_script, script_schema, write_script
from ironmargin.bench.state import Event, State
from ironmargin.bench.words import bench_csv, bench_json, bench_words, series
from ironmargin.errors import SetupError
from ironmargin.setup.reading import load_setup, read_setup
from tests.core.test_bench import played, setup_of, step
from tests.shared import SETUPS, changed, document, path_of
from tests.walking import walk


class SameAgain(unittest.TestCase):
    def test_where_nothing_happens_it_looks_once_a_minute(self) -> None:
        """Room, tank and battery drift: a rare look would miss them, a frequent one takes time."""
        quiet = changed(6, lambda doc: doc.update(wanted=[]))
        at_s = series(played(quiet, hours=0.5))["time_s"]
        self.assertEqual(at_s, [60.0 * n for n in range(31)])

    def test_the_same_script_and_seed_give_the_same_bytes(self) -> None:
        steps = [step(0, "set", on=True), step(30, "load", "roof", mode="low-cool")]
        one, two = (bench_csv(played(setup_of(1), *steps, hours=8)) for _ in range(2))
        self.assertEqual(one, two)
        words = [json.dumps(bench_json(played(setup_of(1), *steps))) for _ in range(2)]
        self.assertEqual(*words)

    def test_another_seed_cycles_otherwise(self) -> None:
        def fridge(doc: dict[str, Any]) -> None:
            doc["rig"]["loads"].append(
                {
                    "id": "fr",
                    "name": "F",
                    "kind": "motor",
                    "running_a": 1.5,
                    "lra_a": 8,
                    "duty": 0.4,
                }
            )
            doc["wanted"].append({"load": "fr"})

        runs = [
            [
                e.at_s
                for e in played(
                    changed(1, fridge), hours=3, seed=s, begin={"all": "as-wanted"}
                ).events
            ]
            for s in (1, 2)
        ]
        self.assertNotEqual(*runs)

    def test_rewinding_to_any_event_gives_the_same_again(self) -> None:
        bench = Bench(setup_of(1), Begin(all="as-wanted"))
        bench.advance(3600.0)
        kept, seen = State.of(json.loads(json.dumps(bench.state.plain()))), len(bench.events)
        bench.advance(2 * 3600.0)
        first = [e.plain() for e in bench.events[seen:]]
        other = Bench(setup_of(1), Begin(all="as-wanted"))
        other.state = kept
        other.advance(2 * 3600.0)
        self.assertEqual([e.plain() for e in other.events], first)
        self.assertEqual(other.state.plain(), bench.state.plain())


class AnyScript(unittest.TestCase):
    """Random scripts of two hundred acts never raise, and no amps flow through what is open."""

    @walk
    @settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
    @given(data=st.data(), number=st.sampled_from([1, 2, 5, 7, 9, 11, 14, 17, 18, 20]))
    def test_nothing_breaks(self, data: st.DataObject, number: int) -> None:
        setup = setup_of(number)
        loads = [x.id for x in setup.rig.loads]
        cooling = {x.id for x in setup.rig.loads if x.kind == "air-conditioner"}
        places = ["post", "supply", "main", "set-outlet", *(c.id for c in setup.rig.circuits)]
        bench = Bench(setup, Begin(all=data.draw(st.sampled_from(["off", "as-wanted"]))))
        for _ in range(data.draw(st.integers(20, 200))):
            bench.advance(
                bench.state.t_s + data.draw(st.sampled_from([0.0, 0.4, 5.0, 60.0, 900.0]))
            )
            do = data.draw(
                st.sampled_from(
                    ["load", "load", "load", "breaker", "set", "reset", "eco", "outdoor", "volts"]
                )
            )
            if do == "load":
                what = data.draw(st.sampled_from(loads))
                mode = st.sampled_from(["fan-low", "low-cool", "high-cool", None])
                act = Act(
                    at_s=0,
                    do=do,
                    what=what,
                    on=data.draw(st.booleans()),
                    mode=data.draw(mode) if what in cooling else None,
                )
            elif do in ("breaker", "reset"):
                what = data.draw(
                    st.sampled_from([*places, "set", "guard"] if do == "reset" else places)
                )
                act = Act(at_s=0, do=do, what=what, on=data.draw(st.booleans()))
            elif do in ("outdoor", "volts"):
                figure = {"outdoor": st.floats(-10, 50), "volts": st.floats(90, 135)}[do]
                act = Act(at_s=0, do=do, figure=data.draw(figure))
            else:
                act = Act(at_s=0, do=do, on=data.draw(st.booleans()))
            bench.do(act)
        bench.advance(bench.state.t_s + 60.0)
        state = bench.state
        plain = json.dumps(bench_json(bench), allow_nan=False)
        self.assertIn("iron-margin/bench", plain)
        fed = state.set_on and not state.locked_out and not any(state.open.get(x) for x in UPSTREAM)
        if not fed:
            self.assertEqual(bench.rows[-1][1:3], (0.0, 0.0))
            self.assertFalse(any(x.running for x in state.loads.values()))
        for load in setup.rig.loads:
            if state.open.get(load.circuit or ""):
                self.assertFalse(state.loads[load.id].running)
        times = [row[0] for row in bench.rows]
        self.assertEqual(times, sorted(times))


class Scripts(unittest.TestCase):
    def faults(self, *steps: dict[str, Any], **more: Any) -> dict[str, str]:
        try:
            played(setup_of(1), *steps, **more)
        except SetupError as error:
            return {f.path: f.code for f in error.faults}
        return {}

    def test_faults_are_named_by_their_step(self) -> None:
        found = self.faults(
            step(0, "load", "nobody", on=True),
            step(0, "load", "roof"),
            step(0, "breaker", "cellar", on=True),
            step(0, "set"),
            step(0, "outdoor", figure=900),
            step(0, "volts"),
            step(0, "reset", "moon"),
            step(0, "contact", "99"),
        )
        self.assertEqual(
            found,
            {
                "steps[0].what": "no-such-load",
                "steps[1].on": "missing",
                "steps[2].what": "where",
                "steps[3].on": "missing",
                "steps[4].figure": "range",
                "steps[5].figure": "missing",
                "steps[6].what": "where",
                "steps[7].what": "where",
            },
        )
        self.assertEqual(
            self.faults({"at_s": -1, "do": "set", "on": True}), {"steps[0].at_s": "least"}
        )
        self.assertEqual(self.faults(hours=1e9), {"hours": "most"})

    def test_what_the_world_does_stays_in_this_world(self) -> None:
        """Volts of a post, the air, a neighbor's amps, a height, what is left: each bound is met on
        both its sides."""
        for do, low, high, step_off in (
            ("volts", 60.0, 300.0, 5.0), ("outdoor", -40.0, 60.0, 5.0), ("fuel", 0.0, 1.0, 0.1),
            ("neighbour", 0.0, 400.0, 5.0), ("altitude", -430.0, 6000.0, 50.0),
            ("soc", 0.0, 1.0, 0.1),
        ):  # fmt: skip
            for figure, fits in ((low - step_off, False), (low + step_off, True),
                                 (high - step_off, True), (high + step_off, False)):  # fmt: skip
                found = self.faults(step(0, do, figure=figure))
                self.assertEqual(set(found), set() if fits else {"steps[0].figure"}, (do, figure))

    def test_a_script_round_trips_and_has_a_schema(self) -> None:
        setup = setup_of(1)
        data = {"format": "iron-margin/script", "version": 1, "steps": [step(0, "set", on=True)]}
        script = read_script(data, setup)
        self.assertEqual(read_script(write_script(script), setup), script)
        self.assertIn("steps", script_schema()["properties"])

    def test_the_command(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            file, table = Path(folder) / "s.json", Path(folder) / "o.csv"
            file.write_text(
                json.dumps(
                    {
                        "format": "iron-margin/script",
                        "version": 1,
                        "hours": 1,
                        "steps": [
                            step(0, "set", on=True),
                            step(60, "load", "roof", mode="low-cool"),
                        ],
                    }
                )
            )
            args = ["bench", str(path_of(1)), "--script", str(file)]
            with contextlib.redirect_stdout(io.StringIO()) as out:
                self.assertEqual(main([*args, "--json", "--csv", str(table)]), 0)
            found = json.loads(out.getvalue())
            self.assertEqual(found["ended"]["running"], ["roof"])
            header = table.read_text().splitlines()[0]
            self.assertEqual(header.split(","), list(found["series"]))
            with contextlib.redirect_stdout(io.StringIO()) as words:
                main(args)
            self.assertIn("roof runs", words.getvalue())
            file.write_text("[")
            with contextlib.redirect_stderr(io.StringIO()):
                self.assertEqual(main(args), 2)

    @walk
    def test_every_shared_setup_runs_eight_hours(self) -> None:
        for file in sorted(SETUPS.glob("*.setup.json")):
            if file.name.startswith("12"):
                continue
            bench = played(load_setup(file), hours=8, begin={"all": "as-wanted"})
            self.assertAlmostEqual(bench.state.t_s, 8 * 3600, delta=1.0)
            self.assertIn("kWh", bench_words(bench))
            json.dumps(bench_json(bench), allow_nan=False)

    def test_events_are_plain(self) -> None:
        event = Event(1.23456, "started", "roof", "why", 12.3456, 101.26)
        self.assertEqual(
            event.plain(),
            {
                "at_s": 1.235,
                "kind": "started",
                "where": "roof",
                "why": "why",
                "amps": 12.35,
                "volts": 101.3,
            },
        )


class Bytes(unittest.TestCase):
    def test_reading_back_a_document_changes_nothing_of_a_run(self) -> None:
        one, two = setup_of(4), read_setup(document(4))
        self.assertEqual(
            bench_csv(played(one, begin={"all": "as-wanted"})),
            bench_csv(played(two, begin={"all": "as-wanted"})),
        )
