"""The order of work through the interface: gates, what opens them, and what is next."""

from server.jobs.models import Job
from server.order import services as order
from server.order.gates import gates_of

from . import parts
from .base import ApiTestCase

ORDER = ["intake", "wiring", "sensors", "injectors", "trigger", "base-maps", "hot-idle"]


class OrderTestCase(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]

    def shown(self):
        return self.get(f"/jobs/{self.job}")

    def gate(self, key):
        """The gates of a station; outputs are tried at the trigger station, so it may have two."""
        return [gate for gate in self.shown()["gates"] if gate["key"] == key]

    def is_open(self, key):
        return all(gate["is_open"] for gate in self.gate(key))

    def path(self, rest):
        return f"/jobs/{self.job}/{rest}"


class GateTests(OrderTestCase):
    def test_they_stand_in_the_order_of_the_stations(self):
        places = [ORDER.index(gate["key"]) for gate in self.shown()["gates"]]
        self.assertEqual(places, sorted(places))
        self.assertEqual({ORDER[place] for place in places}, set(ORDER))

    def test_every_gate_says_what_to_do_and_every_closed_one_what_it_waits_for(self):
        for gate in self.shown()["gates"]:
            with self.subTest(gate=gate["key"]):
                self.assertTrue(gate["sentence"].endswith("."), gate["sentence"])
                self.assertEqual(bool(gate["closed_until"]), not gate["is_open"])

    def test_a_written_reason_opens_and_says_so(self):
        for gate, path in (("wiring", "wiring"), ("trigger", "trigger")):
            with self.subTest(gate=gate):
                self.assertFalse(self.is_open(gate))
                self.post(self.path(f"{path}/reason"), {"reason": "x"}, 422)
                self.assertFalse(self.is_open(gate))
                self.write_reasons(self.job, path)
                opened = [g for g in self.gate(gate) if g["is_open"]]
                self.assertTrue(opened)
                self.assertIn("reason", opened[0]["sentence"])
        self.write_reasons(self.job, "output-tests")
        self.assertTrue(self.is_open("trigger"))

    def test_sensors_alone_do_not_open_their_gate_a_good_check_does(self):
        for sensor in parts.SENSORS:
            self.post(self.path("sensors"), {"sensor": sensor})
        self.assertFalse(self.is_open("sensors"))
        around = {"ambient_c": 14, "soak_h": 20, "meter_v": 12.5}
        log = self.post(self.path("bench/key-on"), {"circumstances": around})["log_id"]
        self.post(self.path("key-on"), {"log_id": log, "circumstances": around})
        self.assertTrue(self.is_open("sensors"))
        self.post(self.path("sensors"), {"sensor": {**parts.COOLANT, "note": "another one"}})
        self.assertFalse(self.is_open("sensors"), "a changed sensor was never checked")

    def test_implausible_injectors_need_a_reason(self):
        self.assertTrue(self.is_open("injectors"))
        tiny = {**parts.INJECTORS, "flow": 25}
        refused = self.post(self.path("injectors"), {"injectors": tiny}, 422)
        self.assert_problem(refused, "far too small", "say why")
        reason = {**tiny, "override_reason": "A test rig that never sees load."}
        self.post(self.path("injectors"), {"injectors": reason})
        self.assertTrue(self.is_open("injectors"))

    def test_a_gate_that_evidence_has_closed_stops_advice_too(self):
        """Readings that failed: no table is changed on them, whatever a trial proposes."""
        seen = {"outcome": "no fire", "coolant_c": 5, "cranking_s": 7}
        self.write_reasons(self.job, "wiring", "trigger", "output-tests")
        trial = self.post(self.path("trials"), {"observation": seen})["id"]
        for sensor in parts.SENSORS:
            self.post(self.path("sensors"), {"sensor": sensor})
        around = {"ambient_c": 14, "soak_h": 20, "meter_v": 12.5}
        faulty = {"circumstances": around, "faults": [{"kind": "pull_up", "size": 1000}]}
        answer = self.post(self.path("bench/key-on"), faulty)
        self.post(self.path("key-on"), {"log_id": answer["log_id"], "circumstances": around})
        self.assertTrue(any(gate["is_refused"] for gate in self.shown()["gates"]))
        refused = self.post(self.path(f"trials/{trial}/accept"), {"note": "all the same"}, 409)
        self.assert_problem(refused, "cannot be trusted")
        self.assertEqual(self.shown()["revision"], 1)


class NextActionTests(OrderTestCase):
    def action(self):
        return self.shown()["next_action"]

    def test_work_leads_from_station_to_station(self):
        seen = [self.action()["station"]]
        self.write_reasons(self.job, "wiring")
        seen.append(self.action()["station"])
        for sensor in parts.SENSORS:
            self.post(self.path("sensors"), {"sensor": sensor})
        self.assertEqual(self.action()["kind"], "check")
        around = {"ambient_c": 14, "soak_h": 20, "meter_v": 12.5}
        log = self.post(self.path("bench/key-on"), {"circumstances": around})["log_id"]
        self.post(self.path("key-on"), {"log_id": log, "circumstances": around})
        seen.append(self.action()["station"])
        self.write_reasons(self.job, "trigger", "output-tests")
        seen.append(self.action()["station"])
        self.assertEqual(len(set(seen)), len(seen), seen)
        self.assertEqual(self.action()["kind"], "record")

    def test_a_trial_asks_for_a_decision_and_the_decision_for_the_next_start(self):
        self.write_reasons(self.job, "wiring", "trigger", "output-tests")
        for sensor in parts.SENSORS:
            self.post(self.path("sensors"), {"sensor": sensor})
        around = {"ambient_c": 14, "soak_h": 20, "meter_v": 12.5}
        log = self.post(self.path("bench/key-on"), {"circumstances": around})["log_id"]
        self.post(self.path("key-on"), {"log_id": log, "circumstances": around})
        seen = {"outcome": "no fire", "coolant_c": 5, "cranking_s": 7}
        trial = self.post(self.path("trials"), {"observation": seen})["id"]
        asked = self.action()
        self.assertEqual(asked["kind"], "decide")
        self.assertIn(str(self.get(self.path(f"trials/{trial}"))["number"]), asked["sentence"])
        self.post(self.path(f"trials/{trial}/accept"), {"note": "as it says"})
        self.assertIn(self.action()["kind"], ("record", "repeat"))
        self.assertEqual(self.shown()["revision"], 2)

    def test_board_and_job_say_the_same(self):
        other = self.make_job(name="Second")["id"]
        self.write_reasons(other, "wiring")
        for row in self.get("/jobs"):
            with self.subTest(job=row["name"]):
                self.assertEqual(row, self.get(f"/jobs/{row['id']}"))

    def test_what_stands_is_told_once(self):
        """Gates of the service and of the answer are the same facts."""
        job = Job.objects.get(pk=self.job)
        standing = order.standing_of(job)
        self.assertEqual(tuple(standing.gates), gates_of(job))
        self.assertEqual([g.key for g in standing.gates], [g["key"] for g in self.shown()["gates"]])
        self.assertEqual(standing.action.sentence, self.action()["sentence"])
