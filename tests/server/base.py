"""What server tests share: a signed-in client with a job, and short ways to call the API."""

from django.test import TestCase

from server.accounts.services import register

FOUR = {
    "displacement_l": 2.2,
    "chambers": 4,
    "cam": "moderate",
    "compression_ratio": 10.2,
    "rev_limit_rpm": 6600,
    "torque_peak_rpm": 4300,
    "injectors": {"flow_cm3_min": 390},
}
PASSWORD = "a long enough phrase"


class ApiTestCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = register(username="owner", password=PASSWORD, workshop="Here")
        cls.stranger = register(username="stranger", password=PASSWORD, workshop="Elsewhere")

    def setUp(self):
        self.client.force_login(self.owner)

    def call(self, method, path, body=None, status=None):
        kind = {} if body is None else {"data": body, "content_type": "application/json"}
        response = getattr(self.client, method)(f"/api{path}", **kind)
        if status is not None:
            self.assertEqual(response.status_code, status, response.content[:500])
        return response.json() if response.content else None

    def post(self, path, body, status=201):
        return self.call("post", path, body, status)

    def get(self, path, status=200):
        return self.call("get", path, None, status)

    def make_job(self, **more):
        return self.post("/jobs", {"name": "Probe", "engine": FOUR, **more})

    def write_reasons(self, job_id, *gates):
        """Pass gates that a test is not about."""
        for gate in gates:
            self.post(f"/jobs/{job_id}/{gate}/reason", {"reason": "Not what this test is about."})

    def upload(self, job_id, data, name="log.csv", status=201, **fields):
        from django.core.files.uploadedfile import SimpleUploadedFile

        response = self.client.post(
            f"/api/jobs/{job_id}/logs", {"file": SimpleUploadedFile(name, data), **fields}
        )
        self.assertEqual(response.status_code, status, response.content[:500])
        return response.json()

    def edit(self, job_id, tables, based_on=1, status=201, **more):
        body = {
            "note": "why",
            "based_on": based_on,
            "tables": {k: {"values": v} for k, v in tables.items()},
            **more,
        }
        return self.post(f"/jobs/{job_id}/calibration", body, status)

    def assert_problem(self, answer, *words):
        """Problem details with a sentence, and no trace of the inside."""
        members = {"type", "title", "status", "detail", "problems", "extra"}
        self.assertEqual(set(answer) - {"said"}, members)
        for word in words:
            self.assertIn(word, answer["detail"])
        self.assertNotIn("Traceback", str(answer))
