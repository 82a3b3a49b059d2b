"""The board, and the pictures of what one owns."""

from __future__ import annotations

import re
from unittest import mock

from django.contrib.auth.models import User
from django.test import Client
from django.urls import reverse

from ironmargin.setup.parts import read_rig
from ironmargin.sustaining.totals import totals
from tests.shared import document
from tests.web.pages import PageCase
from tests.web.test_workbench import percent_of, quick
from web.board import service as board
from web.design.glossary import GLOSSARY
from web.design.places import place_words
from web.rigs.drawing import draw_rig
from web.setups import judging, repository
from web.setups.drawing import draw_margins
from web.setups.models import SavedSetup
from web.storage import actions
from web.supplies.drawing import draw_supply
from web.supplies.models import Supply


class BoardPage(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.setups = [repository.store(self.owner, judging.judge(quick(n))) for n in (1, 4, 11)]

    def test_every_rig_meets_every_supply_once(self) -> None:
        found = board.board_of(self.owner)
        pairs = {(row.rig.pk, c.supply) for row in found.rows for c in row.cells}
        self.assertEqual(len(pairs), len(found.rows) * len(found.supplies))
        held = {c.setup.pk for row in found.rows for c in row.cells if c.setup is not None}
        self.assertEqual(held, {s.pk for s in self.setups})
        page = self.client.get(reverse("board"))
        for saved in self.setups:
            self.assertContains(page, f"{saved.verdict} {percent_of(saved.iron_margin)}")

    def test_an_empty_cell_asks_its_question(self) -> None:
        page = self.client.get(reverse("board")).content.decode()
        rig, supply = re.search(r"\?rig=(\d+)&amp;supply=(\d+)", page).groups()
        requested = self.client.get(reverse("setup-new"), {"rig": rig, "supply": supply})
        self.assertContains(requested, Supply.objects.get(pk=supply).name)
        self.assertContains(requested, 'id="verdict-word"')

    def test_other_volts_are_not_asked_for(self) -> None:
        found = board.board_of(self.owner)
        for row in found.rows:
            high = row.rig.document.get("service") == "230"
            for cell in row.cells:
                supply = Supply.objects.get(pk=cell.supply).document
                volts = supply.get("voltage_v", 120)
                if supply["kind"] in ("shore", "generator"):
                    self.assertEqual(cell.fits, high == (volts > 180), supply)

    def test_stale_cells_come_from_the_queue_as_they_are_computed(self) -> None:
        SavedSetup.objects.update(stale=True, verdict="thin", iron_margin=0.0)
        page = self.client.get(reverse("board"))
        self.assertContains(page, "computing…", 3)
        numbers = re.findall(r'name="pk" value="(\d+)"', page.content.decode())
        self.assertEqual(len(numbers), 3)
        with mock.patch.object(board, "AT_ONCE", 2):
            first = self.client.get(reverse("board-cells"), {"pk": numbers})
            self.assertEqual(first.content.decode().count("hx-swap-oob"), 2)
            left = re.findall(r'name="pk"\s+value="(\d+)"', first.content.decode())
            self.assertEqual(len(left), 1)
            last = self.client.get(reverse("board-cells"), {"pk": left})
        self.assertNotContains(last, "hx-get")
        # The drawing of all margins waits until it has them all.
        self.assertNotContains(first, 'id="margins"')
        self.assertContains(last, '<div id="margins" hx-swap-oob="true">')
        self.assertEqual(last.content.decode().count('class="size-'), len(self.setups))
        for saved in self.setups:
            fresh = SavedSetup.objects.get(pk=saved.pk)
            self.assertEqual((fresh.verdict, fresh.stale), (saved.verdict, False))
            self.assertAlmostEqual(fresh.iron_margin, saved.iron_margin)

    def test_a_computed_cell_says_how_many_more_there_are(self) -> None:
        saved = self.setups[0]
        for n in range(2):
            made = repository.store(self.owner, judging.judge(quick(1) | {"name": f"another {n}"}))
            SavedSetup.objects.filter(pk=made.pk).update(rig=saved.rig, supply=saved.supply)
        SavedSetup.objects.update(stale=True)
        (newest,) = SavedSetup.objects.filter(pk=made.pk)
        told = self.client.get(reverse("board-cells"), {"pk": [newest.pk]})
        self.assertContains(told, "and 2 more")

    def test_what_was_changed_while_it_was_computed_is_not_overwritten(self) -> None:
        saved = self.setups[0]
        SavedSetup.objects.filter(pk=saved.pk).update(stale=True)
        saved.refresh_from_db()
        SavedSetup.objects.filter(pk=saved.pk).update(version=saved.version + 1)
        board._compute(self.owner, [saved])
        self.assertTrue(SavedSetup.objects.get(pk=saved.pk).stale)

    def test_a_cell_without_a_verdict_says_so_and_is_not_waited_for(self) -> None:
        """Figures to correct, and a search that failed: nothing is made up for either."""
        saved = self.setups[0]
        none_sound = mock.patch.object(board, "plain_document", return_value=(None, []))
        all_failed = mock.patch.object(board.jobs, "failed", return_value=True)
        for cause in (none_sound, all_failed):
            SavedSetup.objects.filter(pk=saved.pk).update(stale=True)
            with cause, mock.patch.object(board.jobs, "ask") as requested:
                told = self.client.get(reverse("board-cells"), {"pk": [saved.pk]})
            requested.assert_not_called()
            self.assertContains(told, "open it and check its figures")
            self.assertNotContains(told, "hx-get")
            self.assertTrue(SavedSetup.objects.get(pk=saved.pk).stale)

    def test_it_is_searched(self) -> None:
        name = self.setups[0].rig.name
        page = self.client.get(reverse("board"), {"q": name[:8]})
        self.assertContains(page, name)
        self.assertContains(self.client.get(reverse("board"), {"q": "no such"}), "Show all")

    def test_who_has_no_rig_is_asked_for_it(self) -> None:
        newcomer = Client()
        self.assertEqual(newcomer.get(reverse("board")).status_code, 302)
        newcomer.force_login(User.objects.create_user("new"))
        self.assertRedirects(newcomer.get(reverse("board")), reverse("first-rig"))
        self.assertRedirects(newcomer.get("/"), reverse("board"), fetch_redirect_response=False)

    def test_nobody_sees_anothers_cells(self) -> None:
        stranger = Client()
        stranger.force_login(User.objects.create_user("other"))
        told = stranger.get(reverse("board-cells"), {"pk": [s.pk for s in self.setups]})
        self.assertNotContains(told, "cell-")

    def test_archived_things_are_not_on_it(self) -> None:
        actions.archive(self.setups[0].rig, True)
        rigs = [row.rig for row in board.board_of(self.owner).rows]
        self.assertNotIn(self.setups[0].rig, rigs)


class Pictures(PageCase):
    """What lists draw, against what the core says."""

    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)

    def test_setups_lie_where_their_margins_are(self) -> None:
        made = [
            SavedSetup(pk=n, name=f"s{n}", verdict=verdict, iron_margin=margin)
            for n, (verdict, margin) in enumerate(
                [("fails", -3.0), ("fails", -0.25), ("thin", 0.05), ("thin", 0.05), ("holds", 0.5)]
            )
        ]
        drawn = draw_margins(made)
        ticks = dict(drawn.ticks)
        xs = {dot.name: dot.x for dot in drawn.dots}
        self.assertAlmostEqual(xs["s1"], ticks[-0.25])
        self.assertAlmostEqual(xs["s4"], ticks[0.5])
        self.assertLess(xs["s0"], ticks[-0.5])
        self.assertEqual(drawn.zero, ticks[0.0])
        self.assertEqual(drawn.label, "1 holds, 2 thin, 2 fail")
        twins = [dot for dot in drawn.dots if dot.margin == 0.05]
        self.assertNotEqual(twins[0].y, twins[1].y, "one hides the other")
        self.assertIsNone(draw_margins(made[:1]))

    def test_a_rig_s_legs_are_as_long_as_its_amps(self) -> None:
        rig = document(7)["rig"] | {"main_a": 15}
        drawn, total = draw_rig(rig), totals(read_rig(rig))
        for leg in drawn.legs:
            self.assertAlmostEqual(leg.amps, total.legs[leg.name])
            names = {piece.name for piece in leg.pieces}
            self.assertTrue(names, leg.name)
        scale = (drawn.main_x - 26.0) / drawn.main_a
        piece = max(drawn.legs[0].pieces, key=lambda p: p.width)
        load = next(x for x in rig["loads"] if x["name"] == piece.name)
        self.assertAlmostEqual(piece.width / scale, total.load_amps[load["id"]], delta=0.01)
        self.assertIsNone(draw_rig(rig | {"loads": []}))
        self.assertIsNone(draw_rig({"loads": "many"}))

    def test_a_supply_s_bars_are_what_it_gives(self) -> None:
        post = draw_supply({"kind": "shore", "breaker_a": 30})
        self.assertEqual([g.words for g in post], ["for hours", "for seconds"])
        self.assertEqual([round(g.watts) for g in post], [2880, 3600])
        one = {"kind": "generator", "continuous_w": 1800, "starting_w": 2200}
        hours, seconds, hot = draw_supply(one)
        self.assertEqual((round(hours.watts), round(seconds.watts)), (1800, 2200))
        self.assertLess(hot.watts, hours.watts)
        self.assertEqual(hot.heat_c, 35.0)
        self.assertEqual(draw_supply({"kind": "generator"}), [])

    def test_a_fault_names_the_load_and_the_field(self) -> None:
        doc = document(7)
        name = doc["rig"]["loads"][1]["name"]
        for path, words in (
            ("rig.loads[1].lra_a", f"{name}: locked-rotor amps"),
            ("rig.loads[1].soft_start.fraction", f"{name}: soft-start peak"),
            ("rig.loads[99].lra_a", "Load 100: locked-rotor amps"),
            ("supply.starting_w", "Supply: starting power"),
            ("conditions.outdoor_c", "Outdoor heat"),
            ("hookup[0]", str(doc["hookup"][0].get("name") or "Part 1")),
            ("line 3, column 2", "line 3, column 2"),
            ("", ""),
        ):
            self.assertEqual(place_words(path, doc), words)

    def test_every_term_is_explained_once_in_a_sentence(self) -> None:
        terms = [term for term, _ in GLOSSARY]
        self.assertEqual(len(terms), len(set(terms)))
        for term, words in GLOSSARY:
            self.assertTrue(words.endswith(".") and words[0].isupper(), term)
        page = self.client.get(reverse("rigs")).content.decode()
        for term in terms:
            self.assertIn(f'data-term="{term}"', page)
