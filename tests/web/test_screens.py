"""Now: what it says is what the core says; and who may see a station."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.test import Client
from django.urls import reverse

from ironmargin.planning.now_table import key_of
from ironmargin.planning.present import present
from tests.kinds import question
from tests.web.screens import Screens
from web.bench.models import BenchRun
from web.now.models import RigNow
from web.setups import judging, repository
from web.setups.models import SavedSetup
from web.steps.models import Checklist


class NowScreen(Screens):
    def test_every_chip_says_what_the_core_says(self) -> None:
        text = self.text("now")
        found = present(self.setup, {})
        for chip in found.chips:
            self.assertIn(chip.name, text)
        self.assertEqual(text.count("now-chip now-may"), sum(c.say == "may" for c in found.chips))

    def test_a_press_is_kept_shared_and_pressing_twice_is_once(self) -> None:
        ident = self.setup.rig.loads[0].id
        for _ in range(2):
            self.post("now-put", self.saved.pk, 302, set=f"{ident}=on")
        held = RigNow.objects.get()
        self.assertEqual((list(held.on), held.version), ([ident], 2))
        other = Client()
        other.force_login(self.owner)
        look = reverse("now-look", args=[self.saved.pk])
        self.assertEqual(other.get(look, {"version": 2}).status_code, 204)
        self.assertContains(other.get(look, {"version": 1}), 'aria-pressed="true"')
        self.post("now-put", self.saved.pk, 302, set=f"{ident}=off")
        self.assertEqual(RigNow.objects.get().on, {})

    def test_setups_of_one_rig_share_what_is_on(self) -> None:
        again = repository.store(
            self.owner, judging.judge(repository.compose(self.saved)), what_if=False
        )
        if again.rig_id != self.saved.rig_id:
            SavedSetup.objects.filter(pk=again.pk).update(rig=self.saved.rig)
        ident = self.setup.rig.loads[0].id
        self.post("now-put", self.saved.pk, 302, set=f"{ident}=on")
        self.assertContains(self.client.get(reverse("now", args=[again.pk])), 'aria-pressed="true"')

    def test_nonsense_changes_nothing(self) -> None:
        for words in ("nobody=on", "=", "", "roof=loud", "x" * 5000):
            self.post("now-put", self.saved.pk, 302, set=words)
        self.assertEqual(RigNow.objects.get().version, 1)

    def test_the_table_for_a_phone_without_network(self) -> None:
        found = self.client.get(reverse("now-table", args=[self.saved.pk])).json()
        ids = [x.id for x in self.setup.rig.loads]
        self.assertGreaterEqual(len(found["states"]), 2 ** len(ids))
        for some in (set(), {ids[0]}, set(ids)):
            held = {x.id: None for x in self.setup.rig.loads if x.id in some and not x.always_on}
            off = frozenset(x.id for x in self.setup.rig.loads if x.always_on and x.id not in some)
            modes = {c.load: c.mode for c in present(self.setup, {}).chips}
            on = {k: modes[k] for k in held}
            now = present(self.setup, on, off)
            state = found["states"][key_of(on, off)]
            self.assertAlmostEqual(state["margin"], now.margin, places=5)
            says = {c.load: c.say for c in now.chips}
            self.assertEqual({k: c["say"] for k, c in state["chips"].items()}, says)


class Managed(Screens):
    def test_now_says_what_the_load_manager_does_by_itself(self) -> None:
        document = question("shore")
        document["hookup"] = [{"kind": "load-manager", "limit_a": 20}]
        for load in document["rig"]["loads"][:1]:
            load["priority"] = "wait"
        saved = repository.store(self.owner, judging.judge(document))
        page = self.client.get(reverse("now", args=[saved.pk]))
        self.assertContains(page, "Above 20 A on a leg the load manager turns off")


class Strangers(Screens):
    """Benches and lists have keys of their own: nobody else's account opens them."""

    def test_nobody_else_sees_or_changes_a_bench_or_a_list(self) -> None:
        self.post("bench-begin", self.saved.pk, 302, how="off")
        self.post("steps-begin", self.saved.pk, 302, **{"for": "start"})
        run, held = BenchRun.objects.get(), Checklist.objects.get()
        stranger, other = Client(), Client()
        other.force_login(User.objects.create_user("other"))
        for name, args in (
            ("bench-run", [run.pk]),
            ("bench-press", [run.pk]),
            ("bench-rewind", [run.pk]),
            ("bench-export", [run.pk, "csv"]),
            ("steps-list", [held.pk]),
            ("steps-go", [held.pk]),
            ("steps-print", [held.pk]),
        ):
            url = reverse(name, args=args)
            for verb in ("get", "post"):
                self.assertIn(getattr(stranger, verb)(url).status_code, (302, 401, 405), name)
                self.assertIn(getattr(other, verb)(url).status_code, (404, 405), name)
        held.refresh_from_db()
        self.assertEqual(held.place, 0)
