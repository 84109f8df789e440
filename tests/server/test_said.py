"""Sentences on the wire: canonical text for whoever reads it, typed quantities for the screen."""

import json
import re

from django.contrib.auth.models import User
from django.core.management import call_command
from django.test import SimpleTestCase, TestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.sentences import Quantity, celsius, kilopascal, mixture, plain, written

from server.config.said import rendered, with_said, without_said

from .base import ApiTestCase
from .parts import COOLANT

SIGNS = re.compile("[\ue000-\ue002]")
EXPONENT = re.compile(r"\d[eE][+-]?\d")

json_values = st.recursive(
    st.none() | st.booleans() | st.integers() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=5), inner, max_size=3),
    max_leaves=10,
)  # fmt: skip


def walk(data, path="", quoted=False):
    """Yield (path, sentence, its typed form or None) of every text in an answer."""
    if isinstance(data, dict):
        said = data.get("said") if isinstance(data.get("said"), dict) else {}
        for key, value in data.items():
            if key == "said" and said:
                continue
            if isinstance(value, str):
                yield f"{path}.{key}", value, said.get(key)
            elif isinstance(value, list) and key in said:
                for text, form in zip(value, said[key], strict=True):
                    yield f"{path}.{key}", text, form
            else:
                yield from walk(value, f"{path}.{key}")
    elif isinstance(data, list):
        for i, value in enumerate(data):
            if isinstance(value, str):
                yield f"{path}[{i}]", value, None
            else:
                yield from walk(value, f"{path}[{i}]")


def filled(form):
    """Return a typed sentence in canonical units, as any reader of the contract would fill it."""
    texts = [
        written(Quantity(q["value"], q["unit"], q["decimals"], q["bare"], q["signed"]))
        for q in form["quantities"]
    ]
    template = form["template"].replace("{{", "\x01").replace("}}", "\x02")
    for i, text in enumerate(texts):
        template = template.replace(f"{{{i}}}", text)
    return template.replace("\x01", "{").replace("\x02", "}")


class RenderTests(SimpleTestCase):
    def test_a_sentence_and_a_list_of_sentences(self):
        data = {
            "detail": f"Below {celsius(-7)}.",
            "reasons": ["Plain.", f"At {kilopascal(300)} and {mixture(0.9)}."],
            "inner": [{"why": f"{celsius(20)}"}],
            "count": 3,
        }
        found = with_said(data)
        self.assertEqual(found["detail"], "Below −7 °C.")
        self.assertEqual(found["said"]["detail"]["template"], "Below {0}.")
        self.assertEqual(found["said"]["reasons"][0], None)
        self.assertEqual(found["reasons"][1], "At 300 kPa and lambda 0.90.")
        self.assertEqual(found["inner"][0]["said"]["why"]["quantities"][0]["value"], 20.0)

    @given(json_values)
    def test_data_without_quantities_stay_as_they_are(self, data):
        text = json.dumps(data)
        if not SIGNS.search(json.dumps(data, ensure_ascii=False)):
            self.assertEqual(json.loads(rendered(text)), data)

    @given(json_values)
    def test_whatever_people_type_no_mark_leaves(self, data):
        self.assertIsNone(SIGNS.search(rendered(json.dumps(data))))

    def test_what_was_fetched_may_be_sent_back(self):
        sent = with_said(
            {"a": {"why": celsius(5)}, "b": [{"text": kilopascal(1)}], "said": "a word"}
        )
        self.assertEqual(
            without_said(sent), {"a": {"why": "5 °C"}, "b": [{"text": "1 kPa"}], "said": "a word"}
        )


class AnswerTests(TestCase):
    """Every answer of the jobs in the demo: no mark, no exponent, and both forms say the same."""

    def test_text_and_typed_form_agree_everywhere(self):
        call_command("load_demo", verbosity=0)
        self.client.force_login(User.objects.get(username="demo"))
        paths = self.client.get("/api/openapi.json").json()["paths"]
        sentences = typed = 0
        for job in self.client.get("/api/jobs").json():
            known = {"job_id": job["id"], "function": "coolant", "number": 1, "revision": 1}
            for name, key in (("logs", "log_id"), ("trials", "trial_id")):
                rows = self.client.get(f"/api/jobs/{job['id']}/{name}").json()
                known[key] = rows[0]["id"] if rows else 0
            for path, operations in paths.items():
                names = re.findall(r"{(\w+)}", path)
                if "get" not in operations or any(name not in known for name in names):
                    continue
                response = self.client.get(path.format(**known))
                if response.status_code != 200 or "json" not in response.get("Content-Type", ""):
                    continue
                for where, text, form in walk(response.json()):
                    with self.subTest(path=path, where=where):
                        sentences += 1
                        self.assertIsNone(SIGNS.search(text), text)
                        if " " in text and not where.endswith(("note", "name")):
                            self.assertIsNone(EXPONENT.search(text), text)
                        if form is not None:
                            typed += 1
                            self.assertEqual(filled(form), text)
        self.assertGreater(sentences, 3000)
        self.assertGreater(typed, 100)


class CanonicalTests(ApiTestCase):
    """What is stored and exported is canonical, whatever units a job is shown in."""

    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        units = {"temperature": "°F", "pressure": "psi", "mixture": "AFR"}
        self.post(f"/jobs/{self.job}/units", {"units": units}, 200)

    def test_a_trial_of_an_imperial_job(self):
        seen = {"outcome": "no fire", "coolant_c": -10, "cranking_s": 6}
        trial = self.post(f"/jobs/{self.job}/trials", {"observation": seen})
        sentences = [text for _, text, _ in walk(trial)]
        self.assertTrue(any("−10 °C" in text for text in sentences))
        self.assertFalse([text for text in sentences if "°F" in text or "psi" in text])

    def test_exports(self):
        for form in ("json", "csv"):
            answer = self.client.get(f"/api/jobs/{self.job}/export?format={form}")
            self.assertEqual(answer.status_code, 200, answer.content[:200])
            body = b"".join(answer) if answer.streaming else answer.content
            self.assertIsNone(SIGNS.search(body.decode()))
            self.assertNotIn("°F", body.decode())
            self.assertIn("coolant_c", body.decode())

    def test_a_refusal_is_typed_too(self):
        seen = {"outcome": "no fire", "coolant_c": 500}
        problem = self.post(f"/jobs/{self.job}/trials", {"observation": seen}, 422)
        self.assertIsNone(SIGNS.search(json.dumps(problem, ensure_ascii=False)))
        self.assertEqual(filled(problem["said"]["detail"]), problem["detail"])
        self.assertIn("°C", {q["unit"] for q in problem["said"]["detail"]["quantities"]})

    def test_an_entry_that_was_fetched_is_taken_back(self):
        self.post(f"/jobs/{self.job}/sensors", {"sensor": COOLANT})
        form = {"note": {"template": "", "quantities": []}}
        self.post(
            f"/jobs/{self.job}/sensors",
            {"sensor": {**COOLANT, "note": "again", "said": form}, "said": form},
        )
        versions = self.get(f"/jobs/{self.job}/sensors/coolant/versions")
        self.assertEqual(len(versions), 2)
        self.post(f"/jobs/{self.job}/sensors", {"sensor": {**COOLANT, "sad": form}}, 422)


class PlainTests(SimpleTestCase):
    def test_the_text_of_a_quantity_is_that_of_the_template(self):
        for value in (-40.0, -0.4, 0.0, 2.5, 21.25, 98.6):
            for decimals in (0, 1, 2):
                text = celsius(value, decimals)
                self.assertEqual(
                    plain(text), written(Quantity(value, "°C", decimals)), (value, decimals)
                )
