"""Reports on paper and shared links of a verdict."""

from __future__ import annotations

import re
from datetime import timedelta
from unittest import mock

from django.test import Client
from django.urls import reverse
from django.utils import timezone
from django.utils.html import escape

from ironmargin.planning.remedies import find_remedies
from ironmargin.setup.reading import read_setup
from tests.shared import document
from tests.web.pages import one_line
from tests.web.test_verdicts import Base, User
from web.verdicts.models import Share
from web.verdicts.report import report_pdf


class Reports(Base):
    def test_the_same_bytes_and_the_figures_of_the_core(self) -> None:
        one, two = report_pdf(document(5)), report_pdf(document(5))
        self.assertEqual(one, two)
        self.assertTrue(one.startswith(b"%PDF"))
        self.assertNotEqual(one, report_pdf(document(5) | {"name": "Another"}))
        self.assertIsNone(report_pdf({"format": "nothing"}))

    def test_a_report_for_a_client_says_whom_and_what_to_do(self) -> None:
        named = {"client": "Meadow RV", "place": "lot 7", "by": "ann", "date": "4 July 2026"}
        for client, there in ((named, True), (None, False)):
            with mock.patch("web.verdicts.report.to_pdf", side_effect=lambda html, *_: html):
                html = one_line(str(report_pdf(document(3), client)))
            for words in (*named.values(), "For whom"):
                self.assertEqual(words in html, there, words)
            self.assertIn("If it tripped: do this", html)
            self.assertIn("The loads that were asked for", html)
        setup = read_setup(document(3))
        best = find_remedies(setup).found[0]
        self.assertIn(escape(best.what), html)
        self.assertIn(f"Done by {best.by}", html)
        self.assertIn("the generator&#x27;s red overload light", html)  # computed for this setup
        self.assertNotIn("rig.loads[", html)
        self.assertIn('<th class="n">Watts</th>', html)
        for load in setup.rig.loads:
            self.assertIn(f"<td>{escape(load.name)}</td>", html)
        self.client.force_login(self.owner)
        page = self.client.get(reverse("report-for", args=[self.saved.pk]))
        self.assertContains(page, 'name="client"')
        self.assertContains(page, 'value="owner"')
        answer = self.client.get(reverse("report", args=[self.saved.pk]), named | {"x": "y"})
        self.assertEqual(answer["Content-Type"], "application/pdf")

    def test_download(self) -> None:
        answer = self.client.get(reverse("report", args=[self.saved.pk]))
        self.assertEqual(answer["Content-Type"], "application/pdf")
        self.assertIn(".pdf", answer["Content-Disposition"])

    def test_markup_in_names_is_only_words(self) -> None:
        raw = report_pdf(
            document(5) | {"name": "<img src='file:///etc/passwd'>", "notes": "<script>x</script>"}
        )
        self.assertTrue(raw.startswith(b"%PDF"))


class Shares(Base):
    def test_a_link_shows_it_to_anybody_until_it_is_taken_back(self) -> None:
        page = self.client.post(reverse("share", args=[self.saved.pk]), {"days": "7"})
        url = re.search(r"/verdicts/s/([\w-]{40,})/", page.content.decode())[0]
        stranger = Client()
        seen = stranger.get(url)
        self.assertContains(seen, "is overloaded")
        for word in ("setup-save", "hx-post", 'name="document"', "Sign out"):
            self.assertNotContains(seen, word)
        self.assertEqual(seen["X-Robots-Tag"], "noindex")
        self.assertEqual(stranger.get(url + "report.pdf")["Content-Type"], "application/pdf")
        self.assertEqual(stranger.get(reverse("shared", args=["x" * 43])).status_code, 404)
        link = Share.objects.get()
        other = Client()
        other.force_login(User.objects.create_user("other"))
        self.assertEqual(other.post(reverse("unshare", args=[link.pk])).status_code, 404)
        self.client.post(reverse("unshare", args=[link.pk]))
        self.assertEqual(stranger.get(url).status_code, 404)

    def test_it_expires_and_goes_with_the_setup(self) -> None:
        self.client.post(reverse("share", args=[self.saved.pk]), {"days": "999"})
        link = Share.objects.get()
        self.assertLess(link.expires_at, timezone.now() + timedelta(days=8))
        url = reverse("shared", args=[link.token])
        self.assertEqual(Client().get(url).status_code, 200)
        self.client.post(reverse("delete", args=["setup", self.saved.pk]))
        self.assertEqual(Client().get(url).status_code, 404)
        self.client.post(reverse("restore", args=["setup", self.saved.pk]))
        Share.objects.update(expires_at=timezone.now())
        self.assertEqual(Client().get(url).status_code, 404)

    def test_there_is_a_most(self) -> None:
        for _ in range(25):
            self.client.post(reverse("share", args=[self.saved.pk]), {"days": "1"})
        self.assertEqual(Share.objects.count(), 20)
