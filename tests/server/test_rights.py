"""Who may do what: every writing address of the contract asked by every role."""

import json
from datetime import timedelta

from django.conf import settings
from django.contrib.auth.models import User
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from server.accounts import rights, services
from server.accounts.models import Membership, Role
from server.jobs.models import GuestLink

from .base import PASSWORD, ApiTestCase
from .parts import COIL, INJECTORS, PAIRS, READINGS, SENSORS, SUPPLY, TRIGGER, WIRES

NAMED = {
    "computes": rights.COMPUTES,
    "records": rights.RECORDS,
    "own account": rights.OWN_ACCOUNT,
    "rules": rights.RULES,
    "anybody": rights.ANYBODY,
}


def writing_operations():
    """Yield (method, path, place) of every operation of the contract that may write."""
    contract = json.loads((settings.ROOT / "server" / "openapi.json").read_text())
    for path, operations in contract["paths"].items():
        for method in operations:
            if method != "get":
                yield method, path, rights.place_of(path)


class RightsTests(ApiTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        for role in (Role.MEMBER, Role.APPRENTICE):
            services.take_in(cls.owner, str(role), PASSWORD, role)

    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.seen = {"observation": {"outcome": "no fire", "coolant_c": 5}}

    def client_of(self, username):
        client = Client()
        client.force_login(User.objects.get(username=username))
        return client

    def guest(self, days=3):
        """Return a client that came by a link, and its link."""
        last_day = timezone.localdate() + timedelta(days=days)
        made = self.post(f"/jobs/{self.job}/guests", {"name": "Ines", "ends_on": str(last_day)})
        client = Client()
        body = {"secret": made["path"].removeprefix("/guest/")}
        come = client.post("/api/session/guest", body, content_type="application/json")
        self.assertEqual((come.status_code, come.json()), (200, {"job": self.job}))
        return client, GuestLink.objects.latest("pk")

    def test_every_named_address_is_one_of_the_contract_and_named_once(self):
        places = {place for _, _, place in writing_operations()}
        for kind, named in NAMED.items():
            self.assertEqual(named - places, set(), kind)
        self.assertEqual(sum(map(len, NAMED.values())), len(frozenset().union(*NAMED.values())))

    def test_whoever_asks_is_let_through_or_refused_before_anything_is_read(self):
        guest, _ = self.guest()
        asked_by = {
            None: guest,
            Role.APPRENTICE: self.client_of("apprentice"),
            Role.MEMBER: self.client_of("member"),
        }
        released = 0
        for method, path, place in writing_operations():
            if place in rights.ANYBODY or place == "/session/password":
                continue
            address = rights.place_of(path.replace("{job_id}", str(self.job)))
            address = "/api" + address.replace("{}", "999999")
            for role, client in asked_by.items():
                answer = getattr(client, method)(address, {}, content_type="application/json")
                # By the words of the issue, not by the function under test.
                allowed = place in rights.COMPUTES or (
                    role is not None
                    and (
                        place in rights.RECORDS | rights.OWN_ACCOUNT
                        or (role == Role.MEMBER and place not in rights.RULES)
                    )
                )
                with self.subTest(path=path, role=role):
                    self.assertEqual(answer.status_code == 403, not allowed, answer.content)
            released += place not in frozenset().union(*NAMED.values())
        self.assertGreater(released, 30)

    def test_plain_cases(self):
        """As somebody at the bench would say them."""
        for role, place, allowed in (
            (Role.APPRENTICE, "/jobs/{}/trials", True),
            (Role.APPRENTICE, "/jobs/{}/logs", True),
            (Role.APPRENTICE, "/jobs/{}/units", True),
            (Role.APPRENTICE, "/jobs/{}/trials/{}/accept", False),
            (Role.APPRENTICE, "/jobs/{}/calibration", False),
            (Role.APPRENTICE, "/jobs/{}/wiring/sign-off", False),
            (Role.APPRENTICE, "/jobs/{}/trigger/reason", False),
            (Role.APPRENTICE, "/people", False),
            (Role.MEMBER, "/jobs/{}/calibration", True),
            (Role.MEMBER, "/jobs/{}/guests", True),
            (Role.MEMBER, "/people/{}/role", False),
            (Role.OWNER, "/people/{}/role", True),
            (None, "/jobs/{}/trials", False),
            (None, "/tokens", False),
            (None, "/jobs/{}/injectors/preview", True),
            (Role.APPRENTICE, "/an/address/nobody/thought/of", False),
        ):
            with self.subTest(role=role, place=place):
                self.assertEqual(rights.may(role, place), allowed)

    def test_what_computes_writes_nothing(self):
        good = {
            "agreement/preview": {"pairs": PAIRS},
            "dwell/preview": {"dwell": COIL},
            "injectors/preview": {"injectors": INJECTORS},
            "supply/preview": {"supply": SUPPLY},
            "timing/preview": {"readings": READINGS},
            "trigger/preview": {"trigger": TRIGGER},
            "base-maps/preview": {},
            "bench/light": {"rpm": 900, "commanded_deg": 10},
            "outputs/preview": {"settings": {}},
            "table-bench/check": {"revision": 1, "table": "idle_target", "values": [900.0]},
        }
        guest, _ = self.guest()
        answered = 0
        for place, body in good.items():
            self.assertIn(f"/jobs/{{}}/{place}", rights.COMPUTES)
            with CaptureQueriesContext(
                connection,
            ) as asked:
                answer = guest.post(
                    f"/api/jobs/{self.job}/{place}", body, content_type="application/json"
                )
            answered += answer.status_code == 200
            writes = [
                q["sql"] for q in asked if q["sql"].startswith(("INSERT", "UPDATE", "DELETE"))
            ]
            with self.subTest(place):
                self.assertEqual(writes, [])
        self.assertGreaterEqual(answered, 8)
        with CaptureQueriesContext(connection) as asked:
            body = {"sensor": SENSORS[0]}
            self.client.post("/api/sensors/preview", body, content_type="application/json")
            self.client.post(
                "/api/three-wire/identify", {"wires": WIRES}, content_type="application/json"
            )
        self.assertFalse([q for q in asked if q["sql"].startswith(("INSERT", "UPDATE", "DELETE"))])

    def test_an_apprentice_records_and_a_member_releases(self):
        apprentice, member = self.client_of("apprentice"), self.client_of("member")
        trial = apprentice.post(
            f"/api/jobs/{self.job}/trials", self.seen, content_type="application/json"
        ).json()["id"]
        accept = f"/api/jobs/{self.job}/trials/{trial}/accept"
        refused = apprentice.post(accept, {}, content_type="application/json")
        self.assertEqual(refused.status_code, 403)
        self.assert_problem(refused.json(), "An apprentice records; a member or an owner")
        released = member.post(accept, {}, content_type="application/json")
        self.assertEqual(released.status_code, 201)
        newest = self.get(f"/jobs/{self.job}/revisions")[0]
        self.assertEqual(newest["author"], "member")

    def test_a_guest_sees_one_job_until_its_day(self):
        other = self.make_job()["id"]
        guest, link = self.guest()
        self.assertEqual([job["id"] for job in guest.get("/api/jobs").json()], [self.job])
        for path, status in (
            (f"/api/jobs/{self.job}", 200),
            (f"/api/jobs/{self.job}/ladder", 200),
            (f"/api/jobs/{self.job}/wiring", 200),
            ("/api/controllers", 200),
            (f"/api/jobs/{other}", 404),
            (f"/api/jobs/{other}/ladder", 404),
            ("/api/people", 403),
        ):
            with self.subTest(path):
                self.assertEqual(guest.get(path).status_code, status)
        session = guest.get("/api/session").json()
        self.assertEqual(
            [session[f"may_{what}"] for what in ("record", "release", "rule")], [False] * 3
        )
        self.assertIn("as a guest", session["bounds"])
        self.assertIn("Ines", session["username"])
        GuestLink.objects.filter(pk=link.pk).update(
            ends_on=timezone.localdate() - timedelta(days=1)
        )
        self.assertEqual(guest.get(f"/api/jobs/{self.job}").status_code, 404)
        self.assertEqual(guest.get("/api/jobs").json(), [])

    def test_a_link_taken_back_holds_no_more(self):
        guest, link = self.guest()
        self.call("delete", f"/jobs/{self.job}/guests/{link.pk}", status=204)
        self.assertEqual(guest.get(f"/api/jobs/{self.job}").status_code, 404)
        self.assertFalse(self.get(f"/jobs/{self.job}/guests")[0]["holds"])
        wrong = Client().post(
            "/api/session/guest", {"secret": "x" * 32}, content_type="application/json"
        )
        self.assertEqual(wrong.status_code, 404)
        self.assert_problem(wrong.json(), "does not hold any more")

    def test_a_link_for_nobody_or_for_ever_is_refused(self):
        today = timezone.localdate()
        for name, days in (("", 3), ("x" * 41, 3), ("Ines", -1), ("Ines", 400)):
            body = {"name": name, "ends_on": str(today + timedelta(days=days))}
            with self.subTest(body):
                self.post(f"/jobs/{self.job}/guests", body, status=422)
        self.assertEqual(GuestLink.objects.count(), 0)
        self.assertEqual(User.objects.filter(username__contains="guest").count(), 0)


class PeopleTests(ApiTestCase):
    def take_in(self, role="apprentice", username="Jonas", status=201):
        body = {"username": username, "password": PASSWORD, "role": role}
        return self.post("/people", body, status)

    def test_taken_in_given_a_role_and_let_go(self):
        person = self.take_in()
        self.assertEqual((person["role"], person["is_you"]), ("apprentice", False))
        client = Client()
        self.assertTrue(client.login(username="Jonas", password=PASSWORD))
        job = self.make_job()["id"]
        self.assertEqual(client.get(f"/api/jobs/{job}").status_code, 200)
        session = client.get("/api/session").json()
        self.assertEqual((session["may_record"], session["may_release"]), (True, False))
        self.assertIn("as an apprentice", session["bounds"])
        token = client.post("/api/tokens", {}, content_type="application/json").json()["token"]
        changed = self.post(f"/people/{person['id']}/role", {"role": "member"}, status=200)
        self.assertEqual(changed["role"], "member")
        trial = client.post(
            f"/api/jobs/{job}/trials",
            {"observation": {"outcome": "no fire", "coolant_c": 5}},
            content_type="application/json",
        )
        self.assertEqual(trial.status_code, 201)
        self.call("delete", f"/people/{person['id']}", status=204)
        self.assertEqual(client.get(f"/api/jobs/{job}").status_code, 401)
        self.assertFalse(Client().login(username="Jonas", password=PASSWORD))
        by_token = Client().get(f"/api/jobs/{job}", headers={"Authorization": f"Bearer {token}"})
        self.assertEqual(by_token.status_code, 401)
        # What they wrote keeps their name.
        self.assertEqual(self.get(f"/jobs/{job}/trials/{trial.json()['id']}")["author"], "Jonas")

    def test_nobody_rules_but_an_owner_and_one_stays(self):
        person = self.take_in("member")
        mine = Membership.objects.get(user=self.owner).pk
        answer = self.post(f"/people/{mine}/role", {"role": "member"}, status=422)
        self.assert_problem(answer, "needs an owner")
        self.call("delete", f"/people/{mine}", status=422)
        self.post(f"/people/{person['id']}/role", {"role": "owner"}, status=200)
        self.post(f"/people/{mine}/role", {"role": "member"}, status=200)
        refused = self.take_in(username="Kim", status=403)
        self.assert_problem(refused, "Only an owner")

    def test_another_workshops_people_are_not_there(self):
        theirs = Membership.objects.get(user=self.stranger).pk
        self.post(f"/people/{theirs}/role", {"role": "member"}, status=404)
        self.call("delete", f"/people/{theirs}", status=404)
        self.assertEqual([p["username"] for p in self.get("/people")["people"]], ["owner"])

    def test_a_name_that_is_taken_and_a_weak_password_are_refused(self):
        self.take_in(username="Owner", status=422)
        body = {"username": "Kim", "password": "123", "role": "member"}
        self.assert_problem(self.post("/people", body, 422), "password")
        self.assertEqual(len(self.get("/people")["people"]), 1)
