"""Who may see what: as a table over every address of the API."""

import json

from django.conf import settings
from django.test import Client, override_settings
from django.utils.timezone import localdate

from server.accounts.demo_user import DEMO_USERNAME
from server.accounts.models import ApiToken
from server.accounts.services import register

from .base import FOUR, PASSWORD, ApiTestCase
from .parts import COIL, COOLANT, INJECTORS, LIMITS, PAIRS, READINGS, SUPPLY, TRIGGER, WIRES

CARRY = {"kind": "example", "key": "port_four", "based_on": 1}
DRAFT = {"revision": 1, "table": "idle_target", "values": [900.0]}
REGION = {"first_row": 0, "last_row": 0}
#: What some addresses need besides the job.
QUERIES = {
    "diff": "?first=1&second=1",
    "why": "?table=ve&at=2000&at=60",
    "evidence": "?table=ve",
    "past": "?table=ve&index=1&index=1",
}


class OwnershipTests(ApiTestCase):
    def addresses(self):
        """Yield (method, path) of every operation on a job, from the published contract."""
        contract = json.loads((settings.ROOT / "server" / "openapi.json").read_text())
        for path, operations in contract["paths"].items():
            if "{job_id}" not in path:
                continue
            for method in operations:
                yield method, path.removeprefix("/api")

    def test_another_workshops_job_answers_404_everywhere(self):
        job = self.make_job()["id"]
        log = self.post(f"/jobs/{job}/bench/starts", {"coolant_c": 20})["id"]
        trial = self.post(f"/jobs/{job}/trials", {"log_id": log})["id"]
        wiring = self.get(f"/jobs/{job}/wiring")
        plan = {"controller": wiring["controller"], "entry": wiring["entry"]}
        bodies = {
            "/jobs/{job_id}/units": {"units": {}},
            "/jobs/{job_id}/aside": {"aside": False},
            "/jobs/{job_id}/guests": {"name": "Ines", "ends_on": str(localdate())},
            "/jobs/{job_id}/calibration": {"based_on": 1, "tables": {}},
            "/jobs/{job_id}/calibration/restore": {"revision": 1, "based_on": 1},
            "/jobs/{job_id}/trials": {"log_id": log},
            "/jobs/{job_id}/bench/starts": {"coolant_c": 20},
            "/jobs/{job_id}/bench/key-on": {},
            "/jobs/{job_id}/bench/held": {},
            "/jobs/{job_id}/bench/idle": {},
            "/jobs/{job_id}/first-start/setup": {"setup": {}},
            "/jobs/{job_id}/first-start/steps/{key}": {},
            "/jobs/{job_id}/first-start/steps/{key}/skip": {"reason": "seen already"},
            "/jobs/{job_id}/first-start/run-in": {"log_id": 1},
            "/jobs/{job_id}/idle/stop": {"readings": [{"valve_pct": 30, "rpm": 800}]},
            "/jobs/{job_id}/idle/return": {"closings": [{"throttle_pct": 0, "rpm": 800}]},
            "/jobs/{job_id}/idle/sweeps": {"log_id": 1},
            "/jobs/{job_id}/idle/sweeps/{number}/take": {},
            "/jobs/{job_id}/idle/hunting": {"log_id": 1},
            "/jobs/{job_id}/idle/air": {"rpm": 800, "map_kpa": 40},
            "/jobs/{job_id}/idle/loads": {"load": "gear", "idle_rpm": 800, "lowest_rpm": 700},
            "/jobs/{job_id}/idle/spark": {"lopey": 0},
            "/jobs/{job_id}/idle/step": {"outcome": "surges"},
            "/jobs/{job_id}/idle/reason": {"reason": "because it is so"},
            "/jobs/{job_id}/sensors": {"sensor": COOLANT},
            "/jobs/{job_id}/agreement": {"pairs": PAIRS},
            "/jobs/{job_id}/agreement/preview": {"pairs": PAIRS},
            "/jobs/{job_id}/key-on": {"readings": {"coolant": {"value": 12}}},
            "/jobs/{job_id}/key-on/{number}/override": {"reason": "because it is so"},
            "/jobs/{job_id}/injectors": {"injectors": INJECTORS},
            "/jobs/{job_id}/injectors/preview": {"injectors": INJECTORS},
            "/jobs/{job_id}/injectors/infer": {"log_id": log},
            "/jobs/{job_id}/supply": {"supply": SUPPLY},
            "/jobs/{job_id}/supply/preview": {"supply": SUPPLY},
            "/jobs/{job_id}/supply/prime": {"log_id": log},
            "/jobs/{job_id}/wiring": plan,
            "/jobs/{job_id}/wiring/preview": plan,
            "/jobs/{job_id}/wiring/sign-off": {"number": 1},
            "/jobs/{job_id}/wiring/checks": {"line": "coolant"},
            "/jobs/{job_id}/wiring/reason": {"reason": "because it is so"},
            "/jobs/{job_id}/outputs": {"settings": {}},
            "/jobs/{job_id}/outputs/preview": {"settings": {}},
            "/jobs/{job_id}/three-wire": {"name": "x", "wires": WIRES},
            "/jobs/{job_id}/trigger": {"trigger": TRIGGER},
            "/jobs/{job_id}/trigger/preview": {"trigger": TRIGGER},
            "/jobs/{job_id}/trigger/reason": {"reason": "because it is so"},
            "/jobs/{job_id}/captures/read": {"upload_id": "0" * 64},
            "/jobs/{job_id}/bench/captures": {},
            "/jobs/{job_id}/bench/light": {"rpm": 900, "commanded_deg": 10},
            "/jobs/{job_id}/timing": {"readings": READINGS},
            "/jobs/{job_id}/timing/preview": {"readings": READINGS},
            "/jobs/{job_id}/timing/{number}/take": {},
            "/jobs/{job_id}/dwell": {"dwell": COIL},
            "/jobs/{job_id}/dwell/preview": {"dwell": COIL},
            "/jobs/{job_id}/output-tests": {"output": "coil_1", "heard": "works"},
            "/jobs/{job_id}/output-tests/reason": {"reason": "because it is so"},
            "/jobs/{job_id}/intake": {"entry": {}},
            "/jobs/{job_id}/photographs/{number}/aside": {"aside": True},
            "/jobs/{job_id}/inherited": {"sources": [{"text": "ve"}]},
            "/jobs/{job_id}/logs/read": {"upload_id": "0" * 64},
            "/jobs/{job_id}/inherited/paste": {"text": "1"},
            "/jobs/{job_id}/inherited/decision": {"decision": "repair"},
            "/jobs/{job_id}/base-maps/preview": {"engine": FOUR},
            "/jobs/{job_id}/base-maps/generate": {"engine": FOUR, "based_on": 1},
            "/jobs/{job_id}/base-maps/carry-over": CARRY,
            "/jobs/{job_id}/base-maps/carry-over/preview": CARRY,
            "/jobs/{job_id}/base-maps/axes": {"axes": {}},
            "/jobs/{job_id}/base-maps/axes/preview": {"axes": {}},
            "/jobs/{job_id}/table-bench/operate": {**DRAFT, "region": REGION, "operation": "set"},
            "/jobs/{job_id}/table-bench/paste": {**DRAFT, "row": 0, "text": "1"},
            "/jobs/{job_id}/table-bench/check": {"revision": 1, "tables": {}},
            "/jobs/{job_id}/table-bench/accept": {
                "revision": 1,
                "tables": {},
                "identifier": "x",
                "reason": "because it is so",
            },
            "/jobs/{job_id}/transfer": {"revision": 1},
            "/jobs/{job_id}/trials/of-log": {"log_id": 1, "start_numbers": [1]},
            "/jobs/{job_id}/trials/{trial_id}/accept": {},
            "/jobs/{job_id}/trials/{trial_id}/decline": {},
            "/jobs/{job_id}/ladder/evidence/{number}/strike": {"reason": "not mine"},
            "/jobs/{job_id}/ladder/evidence/{number}/restore": {"reason": "not mine"},
            "/jobs/{job_id}/mornings": {"monthly_c": []},
            "/jobs/{job_id}/season/starts": {"kind": "cold"},
            "/jobs/{job_id}/season/looks": {"cause": "no-sync"},
            "/jobs/{job_id}/season/nights": {},
            "/jobs/{job_id}/season/end": {},
            "/jobs/{job_id}/live": {"coolant_c": 20},
            "/jobs/{job_id}/bench/drive": {},
            "/jobs/{job_id}/fuel-map": {"log_ids": [1]},
            "/jobs/{job_id}/logs/{log_id}/aside": {"aside": True, "reason": "Not this one."},
            "/jobs/{job_id}/fuel-map/{number}/accept": {},
            "/jobs/{job_id}/fuel-map/transients": {"log_ids": [1]},
            "/jobs/{job_id}/fuel-map/transients/{number}/accept": {},
            "/jobs/{job_id}/fuel-map/{number}/corrections/{key}": {},
            "/jobs/{job_id}/handover/closing/{key}": {},
            "/jobs/{job_id}/handover/pdf": {},
            "/jobs/{job_id}/archive": {},
            "/jobs/{job_id}/handover/reopen": {"parts": ["fuel"], "reason": "because it is so"},
            "/jobs/{job_id}/pulls/limits": {"limits": LIMITS},
            "/jobs/{job_id}/pulls/checks/{key}": {},
            "/jobs/{job_id}/pulls/reason": {"reason": "because it is so"},
            "/jobs/{job_id}/pulls/from-log": {"log_id": 1, "begin_s": 0, "end_s": 9},
            "/jobs/{job_id}/pulls/typed": {"points": [[2000, 100], [3000, 120], [4000, 110]]},
            "/jobs/{job_id}/pulls/bench": {},
            "/jobs/{job_id}/pulls/plan": {},
            "/jobs/{job_id}/pulls/compare": {"a": [1, 2], "b": [3, 4]},
            "/jobs/{job_id}/pulls/dips": {"numbers": [1]},
            "/jobs/{job_id}/pulls/boost": {},
            "/jobs/{job_id}/pulls/boost/take": {"target_kpa": 150},
            "/jobs/{job_id}/pulls/cams": {"low": [1], "high": [2]},
            "/jobs/{job_id}/pulls/cams/take": {"low": [1], "high": [2]},
            "/jobs/{job_id}/pulls/knock": {},
            "/jobs/{job_id}/pulls/knock/take": {},
            "/jobs/{job_id}/pulls/spark": {"points": []},
            "/jobs/{job_id}/pulls/full-load": {"numbers": [1]},
            "/jobs/{job_id}/pulls/{number}/aside": {"reason": "because it is so"},
            "/jobs/{job_id}/live/{number}/close": {},
            "/jobs/{job_id}/live/{number}/command": {"key": True},
            "/jobs/{job_id}/live/{number}/keep": {},
            "/jobs/{job_id}/live/{number}/light": {},
            "/jobs/{job_id}/live/{number}/run-in": {},
            "/jobs/{job_id}/live/{number}/sweep": {},
        }
        multipart = (
            "/logs", "/logs/preview", "/import", "/captures", "/captures/upload", "/photographs",
            "/inherited/file", "/trials/starts", "/pulls/from-file", "/track",
        )  # fmt: skip
        seen = 0
        for user, expected in ((None, 401), ("stranger", 404)):
            client = Client()
            if user:
                client.force_login(self.stranger)
            for method, path in self.addresses():
                with self.subTest(user=user, method=method, path=path):
                    real = path.format(
                        job_id=job,
                        log_id=log,
                        other_id=log,
                        digest="0" * 64,
                        trial_id=trial,
                        function="coolant",
                        key="fluids",
                        number=1,
                        link_id=1,
                    )
                    real += QUERIES.get(path.rsplit("/", 1)[1], "")
                    kind = {}
                    if method == "post" and path.endswith(multipart) and path not in bodies:
                        from django.core.files.uploadedfile import SimpleUploadedFile

                        kind = {
                            "data": {
                                "file": SimpleUploadedFile("x.csv", b"time,rpm\n0,0\n1,9\n"),
                                "upload_id": "0" * 64,
                            }
                        }
                    elif method == "post":
                        kind = {"data": bodies[path], "content_type": "application/json"}
                    response = getattr(client, method)(f"/api{real}", **kind)
                    self.assertEqual(response.status_code, expected, response.content[:200])
                    seen += 1
        self.assertGreater(seen, 140)
        self.assertEqual(self.client.get(f"/api/jobs/{job}").status_code, 200)

    def test_lists_hold_only_the_own_workshops_jobs(self):
        self.make_job()
        self.client.force_login(self.stranger)
        self.assertEqual(self.get("/jobs"), [])

    def test_a_log_of_another_job_cannot_be_judged_here(self):
        first, second = self.make_job()["id"], self.make_job()["id"]
        log = self.post(f"/jobs/{first}/bench/starts", {"coolant_c": 20})["id"]
        self.post(f"/jobs/{second}/trials", {"log_id": log}, status=404)


class SignInTests(ApiTestCase):
    def setUp(self):
        self.client = Client(enforce_csrf_checks=True)
        self.client.get("/api/session")

    def send(self, method, path, body, token=True):
        headers = {"X-CSRFToken": self.client.cookies["csrftoken"].value} if token else {}
        return getattr(self.client, method)(
            f"/api{path}", body, content_type="application/json", headers=headers
        )

    def test_with_name_and_password_and_out_again(self):
        self.assertEqual(
            self.send("post", "/session", {"username": "owner", "password": "wrong"}).status_code,
            422,
        )
        answer = self.send("post", "/session", {"username": "owner", "password": PASSWORD})
        self.assertEqual(answer.json()["workshop"], "Here")
        self.assertEqual(self.client.get("/api/jobs").status_code, 200)
        self.assertEqual(self.send("delete", "/session", None).status_code, 204)
        self.assertEqual(self.client.get("/api/jobs").status_code, 401)

    def test_another_sites_page_cannot_write(self):
        self.send("post", "/session", {"username": "owner", "password": PASSWORD})
        self.assertEqual(self.send("post", "/jobs/preview", {}, token=False).status_code, 403)
        self.assertEqual(
            self.send(
                "post", "/session", {"username": "owner", "password": PASSWORD}, token=False
            ).status_code,
            403,
        )

    def test_new_people_get_a_workshop_of_their_own(self):
        weak = self.send("post", "/users", {"username": "new", "password": "123"})
        self.assertEqual(weak.status_code, 422)
        self.assertEqual(weak.json()["problems"][0]["field"], "password")
        taken = self.send("post", "/users", {"username": "Owner", "password": PASSWORD})
        self.assertIn("taken", taken.json()["detail"])
        self.assertEqual(
            self.send("post", "/users", {"username": "new", "password": PASSWORD}).status_code, 201
        )
        self.assertEqual(self.client.get("/api/jobs").json(), [])

    def test_tokens_for_programs(self):
        self.send("post", "/session", {"username": "owner", "password": PASSWORD})
        token = self.send("post", "/tokens", {"name": "script"}).json()["token"]
        self.assertFalse(ApiToken.objects.filter(digest__contains=token).exists())
        program = Client(enforce_csrf_checks=True)
        good = program.get("/api/jobs", headers={"Authorization": f"Bearer {token}"})
        bad = program.get("/api/jobs", headers={"Authorization": "Bearer nonsense"})
        self.assertEqual((good.status_code, bad.status_code), (200, 401))


class DemoTests(ApiTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        register(username=DEMO_USERNAME, password=None, workshop="Demo")

    def name_of(self, **request):
        return Client().get("/api/session", **request).json()["username"]

    def test_signs_in_on_this_machine_only_and_only_in_demo_mode(self):
        self.assertIsNone(self.name_of())
        with override_settings(DEMO=True):
            self.assertEqual(self.name_of(), DEMO_USERNAME)
            self.assertEqual(self.name_of(REMOTE_ADDR="::1"), DEMO_USERNAME)
            self.assertIsNone(self.name_of(REMOTE_ADDR="192.0.2.7"))
            self.assertIsNone(self.name_of(HTTP_X_FORWARDED_FOR="192.0.2.7"))

    @override_settings(DEMO=True)
    def test_programs_need_no_cookie_but_foreign_pages_get_nothing(self):
        program = Client(enforce_csrf_checks=True)
        self.assertEqual(program.get("/api/jobs").status_code, 200)
        page = program.post(
            "/api/jobs/preview",
            {},
            content_type="application/json",
            headers={"Origin": "http://elsewhere.example"},
        )
        self.assertEqual(page.status_code, 403)
