"""The guide: what it holds is what the documents say, and its pictures are those of the stations only."""

from django.test import SimpleTestCase

from server.guide.documents import plain

from .base import ApiTestCase


class GuideTests(ApiTestCase):
    def test_order_of_work_words_and_formulas_are_in_it(self):
        found = self.get("/guide")
        self.assertEqual([s["number"] for s in found["stations"]], list(range(1, 14)))
        words = {word["term"]: word for word in found["words"]}
        self.assertIn("ECT", words["coolant temperature"]["also"])
        titles = [chapter["title"] for chapter in found["chapters"]]
        self.assertIn("Pulls (station 12)", titles)
        text = str(found["chapters"])
        self.assertIn("SAE 810494", text)
        self.assertNotIn("**", text)
        self.assertNotIn("](", text)

    def test_pictures_are_of_the_guide_and_nothing_else(self):
        name = next(s["picture"] for s in self.get("/guide")["stations"] if s["picture"])
        answer = self.client.get(f"/api/guide/pictures/{name}")
        self.assertEqual(answer["Content-Type"], "image/png")
        self.assertTrue(answer.content.startswith(b"\x89PNG"))
        for bad in ("nothing", "..", "board.png"):
            self.assertEqual(self.client.get(f"/api/guide/pictures/{bad}").status_code, 404)

    def test_nobody_reads_it_without_signing_in(self):
        self.client.logout()
        self.assertEqual(self.client.get("/api/guide").status_code, 401)


class PlainTests(SimpleTestCase):
    def test_marks_go_and_words_stay(self):
        self.assertEqual(plain("**Pull** in [formats](formats.md), `rpm`"), "Pull in formats, rpm")
