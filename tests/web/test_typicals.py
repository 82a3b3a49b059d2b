"""The page of typical figures: off by default, nothing of few, and the open file."""

from __future__ import annotations

import io
import json
import tempfile
from pathlib import Path

from django.contrib.auth.models import User
from django.core.management import CommandError, call_command
from django.urls import reverse

from ironmargin.setup.records import write_record
from tests.core.test_learning import on_a_post, start, told
from tests.web.pages import PageCase
from web.accounts.models import Membership
from web.rigs import pool
from web.rigs.models import PooledFigure, Rig
from web.rigs.typical import groups, load_document

KEY = "ac-13k"


def measured(owner: User, peak_a: float) -> Rig:
    """A rig whose log has corrected its unit."""
    setup = on_a_post(running_a=11.5, lra_a=57.0)
    log = [start(peak_a, outcome="starts", notes=f"{n}") for n in range(3)]
    document = write_record(told(setup, *log).setup.rig)
    return Rig.objects.create(owner=owner, name="Blue finch", document=document)


class Typicals(PageCase):
    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.client.force_login(self.owner)
        self.others = [User.objects.create_user(f"other{n}") for n in range(5)]
        for n, user in enumerate(self.others):
            measured(user, 44.0 + n)
        pool.take_in(())

    def tearDown(self) -> None:
        pool.take_in(())

    def test_nothing_counts_unless_an_owner_says_so(self) -> None:
        self.assertEqual(pool.compute(), 0)
        for user in self.others:
            pool.set_pooling(user, True)
        self.assertEqual(pool.compute(), 1)
        row = PooledFigure.objects.get()
        self.assertEqual((row.key, row.units), (KEY, 5))
        self.assertLess(row.median, 57.0)
        pool.set_pooling(self.others[0], False)
        self.assertEqual(pool.compute(), 0)  # four units are too few to be shown

    def test_a_typical_load_says_what_stands_behind_it_and_brings_its_spread(self) -> None:
        before = load_document(KEY, set())
        assert before is not None
        self.assertNotIn("lra_spread", before)
        for user in self.others:
            pool.set_pooling(user, True)
        pool.compute()
        names = dict(one for _, some in groups() for one in some)
        self.assertIn("A locked rotor, from 5 measured units", names[KEY])
        self.assertNotIn("locked rotor", names["ac-8k"])
        after = load_document(KEY, set())
        assert after is not None
        self.assertLess(after["lra_a"], before["lra_a"])
        self.assertLess(after["lra_spread"], 0.15)
        page = self.client.get(reverse("typicals"))
        self.assertContains(page, "1 measured")
        self.assertNotContains(page, "Blue finch")
        self.assertNotContains(page, "other0")

    def test_only_the_owner_turns_it_on_and_off(self) -> None:
        url = reverse("typicals-count")
        self.client.post(url, {"on": "1"})
        self.assertTrue(pool.pools(self.owner))
        self.client.post(url, {"on": "0"})
        self.assertFalse(pool.pools(self.owner))
        Membership.objects.create(account=self.others[0], member=self.owner, role="editor")
        session = self.client.session
        session["account"] = self.others[0].pk
        session.save()
        self.assertEqual(self.client.post(url, {"on": "1"}).status_code, 403)
        self.assertFalse(pool.pools(self.others[0]))
        self.client.logout()
        self.assertEqual(self.client.post(url, {"on": "1"}).status_code, 401)

    def test_the_file_goes_out_in_both_forms_and_into_another_house(self) -> None:
        for user in self.others:
            pool.set_pooling(user, True)
        pool.compute()
        answer = self.client.get(reverse("typicals-json"))
        self.assertEqual(answer.json()["figures"][0]["key"], KEY)
        from pyarrow import parquet

        table = parquet.read_table(io.BytesIO(self.client.get(reverse("typicals-parquet")).content))
        self.assertEqual(table.column("key").to_pylist(), [KEY])
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "t.json"
            path.write_bytes(answer.content)
            PooledFigure.objects.all().delete()
            said = io.StringIO()
            call_command("typicals", take=str(path), stdout=said)
            self.assertIn("1 figures taken in", said.getvalue())
            self.assertEqual(list(pool.published()), [KEY])
            path.write_text(json.dumps({"format": "x"}))
            with self.assertRaises(CommandError):
                call_command("typicals", take=str(path))
            self.assertEqual(list(pool.published()), [KEY])  # what was there stays

    def test_a_rig_that_has_to_be_mended_tells_nothing_and_stops_nothing(self) -> None:
        for user in self.others:
            pool.set_pooling(user, True)
        rig = Rig.objects.filter(owner=self.others[0]).get()
        rig.document["x"] = {"learned": {"unknowns": [{"what": 7}], "rows": "no"}}
        rig.save()
        Rig.objects.create(owner=self.others[1], name="bad", document={"x": 1, "loads": "none"})
        self.assertEqual(pool.compute(), 0)
