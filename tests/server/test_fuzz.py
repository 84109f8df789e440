"""The whole contract, asked with bodies drawn from its own schemas: answered as documented, never broken.

Every operation is asked with bodies that are right by schema, and with such in which one thing is wrong.
Seeded and bounded here; `FUZZ_ROUNDS` asks for more by hand.
"""

import json
import os
import random

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile

from .base import ApiTestCase
from .parts import COOLANT, SUPPLY

ROUNDS = int(os.environ.get("FUZZ_ROUNDS", "2"))
CONTRACT = json.loads((settings.ROOT / "server" / "openapi.json").read_text())
#: Strings somebody might send.
STRANGE = ("", " ", "x" * 3000, "−5", "😀", "'; DROP TABLE jobs_job; --", "<script>", "../..", "\u202e", "NaN", "١٢", "0x10")  # fmt: skip
NUMBERS = (0, -1, 1, 0.5, -0.0, 1e-300, 1e300, -1e300, 2**31, 2**63, 10**30, 20.0, 14.7)
#: Long work and what would take its time; asked in tests of their own.
SLOW = ("held", "season", "starts", "captures")


class Drawn:
    """Draws values that follow a schema.

    Parameters
    ----------
    draw : Random
    """

    def __init__(self, draw):
        self.draw = draw

    def value(self, schema, depth=0):
        """Return a value that follows a schema, as far as it goes."""
        if "$ref" in schema:
            name = schema["$ref"].rsplit("/", 1)[1]
            return self.value(CONTRACT["components"]["schemas"][name], depth)
        for several in ("anyOf", "oneOf", "allOf"):
            if several in schema:
                plain = [s for s in schema[several] if s.get("type") == "null"] if depth > 6 else []
                return self.value(self.draw.choice(plain or schema[several]), depth)
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return self.draw.choice(schema["enum"])
        return self.of_type(schema, depth)

    def of_type(self, schema, depth):
        kind = schema.get("type")
        if isinstance(kind, list):
            kind = self.draw.choice(kind)
        if kind == "object" or "properties" in schema:
            return self.object(schema, depth)
        if kind == "array":
            return self.array(schema, depth)
        if kind == "string":
            return self.draw.choice((*STRANGE, "coolant", "cranking_fuel", "2026-11-20"))
        if kind in ("integer", "number"):
            return self.number(schema, kind)
        if kind == "boolean":
            return self.draw.random() < 0.5
        return None

    def object(self, schema, depth):
        wanted = schema.get("properties", {})
        must = set(schema.get("required", ()))
        found = {
            name: self.value(part, depth + 1)
            for name, part in wanted.items()
            if name in must or (depth < 5 and self.draw.random() < 0.5)
        }
        more = schema.get("additionalProperties")
        if isinstance(more, dict) and depth < 5:
            for _ in range(self.draw.randrange(3)):
                found[self.draw.choice(("rpm", "ve", "idle_target", "x"))] = self.value(
                    more, depth + 1
                )
        return found

    def array(self, schema, depth):
        least = schema.get("minItems", 0)
        most = min(schema.get("maxItems", 4), max(4, least)) if depth < 6 else least
        parts = schema.get("prefixItems")
        if parts:
            return [self.value(part, depth + 1) for part in parts]
        count = self.draw.randint(least, max(least, most))
        return [self.value(schema.get("items", {}), depth + 1) for _ in range(count)]

    def number(self, schema, kind):
        low = schema.get("minimum", schema.get("exclusiveMinimum"))
        high = schema.get("maximum", schema.get("exclusiveMaximum"))
        if low is not None and high is not None and self.draw.random() < 0.7:
            value = self.draw.uniform(low, high)
        else:
            value = self.draw.choice(NUMBERS)
        return int(value) if kind == "integer" else value

    def spoiled(self, value):
        """Return a value with one thing in it replaced, added or taken away."""
        other = self.draw.choice(([], {}, None, True, "text", -7, 1e18, ["a"], {"a": 1}))
        if isinstance(value, dict) and value and self.draw.random() < 0.85:
            name = self.draw.choice(sorted(value))
            way = self.draw.randrange(4)
            if way == 0:
                return {k: v for k, v in value.items() if k != name}
            if way == 1:
                return {**value, "somebody else's": other}
            return {**value, name: self.spoiled(value[name])}
        if isinstance(value, list) and value and self.draw.random() < 0.85:
            place = self.draw.randrange(len(value))
            return [*value[:place], self.spoiled(value[place]), *value[place + 1 :]]
        return other


class ContractTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.post(f"/jobs/{self.job}/sensors", {"sensor": COOLANT})
        self.post(f"/jobs/{self.job}/supply", {"supply": SUPPLY})
        seen = {"outcome": "no fire", "coolant_c": 5}
        self.trial = self.post(f"/jobs/{self.job}/trials", {"observation": seen})["id"]
        self.log = self.post(f"/jobs/{self.job}/bench/starts", {"coolant_c": 20, "run_s": 5})["id"]

    def operations(self):
        for path, methods in CONTRACT["paths"].items():
            if path.rsplit("/", 1)[1] in SLOW or "/season" in path:
                continue
            for method, operation in methods.items():
                if (method, path) != ("delete", "/api/session"):
                    yield method, path, operation

    def address(self, path, operation, drawn):
        known = {
            "job_id": self.job, "log_id": self.log, "trial_id": self.trial, "function": "coolant",
            "number": 1, "key": "shipped:kutter-52", "task_id": "0" * 32, "item_id": 1, "token_id": 1,
            "link_id": 1, "person_id": 1, "other_id": self.log, "digest": "0" * 64, "name": "boost",
        }  # fmt: skip
        query = {}
        for part in operation.get("parameters", ()):
            if part["in"] == "query" and (part.get("required") or drawn.draw.random() < 0.5):
                query[part["name"]] = drawn.value(part["schema"])
            elif part["in"] == "path" and drawn.draw.random() < 0.1:
                known[part["name"]] = drawn.draw.choice((0, 10**12, 999))
        return path.format(**known), query

    def ask(self, method, path, operation, drawn, *, spoil):
        address, query = self.address(path, operation, drawn)
        if query:
            from urllib.parse import urlencode

            address += "?" + urlencode({k: v for k, v in query.items() if v is not None})
        content = operation.get("requestBody", {}).get("content", {})
        if "multipart/form-data" in content:
            body = {"file": SimpleUploadedFile("x.csv", drawn.draw.choice((b"", b"time,rpm\n0,0\n1,9\n", b"\x00\xff" * 50)))}  # fmt: skip
            return self.client.post(address, body), address
        if "application/json" not in content:
            return getattr(self.client, method)(address), address
        value = drawn.value(content["application/json"]["schema"])
        value = drawn.spoiled(value) if spoil else value
        text = json.dumps(value)
        return getattr(self.client, method)(address, text, content_type="application/json"), (address, text)  # fmt: skip

    def test_every_operation_answers_as_documented(self):
        drawn = Drawn(random.Random(20))
        asked = 0
        for number in range(ROUNDS):
            for method, path, operation in self.operations():
                response, sent = self.ask(method, path, operation, drawn, spoil=number % 2 == 1)
                asked += 1
                with self.subTest(method=method, sent=str(sent)[:600]):
                    self.assertLess(response.status_code, 500, response.content[:300])
                    self.assert_documented(operation, response)
        self.assertGreater(asked, 110 * ROUNDS)

    def assert_documented(self, operation, response):
        status = str(response.status_code)
        if response.status_code >= 400:
            self.assertTrue({status, "default"} & set(operation["responses"]))
            self.assertEqual(response.headers["Content-Type"], "application/problem+json")
            problem = response.json()
            self.assertEqual(problem["status"], response.status_code)
            self.assertGreater(len(problem["detail"]), 8)
            for word in ("Traceback", "sqlite", "pydantic", "object at 0x", "NoneType"):
                self.assertNotIn(word, problem["detail"])
            return
        self.assertIn(status, operation["responses"])  # what goes well is named, not by default
        if response.content and response.headers["Content-Type"].startswith("application/json"):
            json.loads(response.content, parse_constant=self.fail)
