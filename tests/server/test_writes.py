"""What follows from a write is written with it, once, or nothing is; and every row is known to its job."""

import threading
from unittest import mock

from django.apps import apps
from django.db import connection
from django.test import SimpleTestCase, TransactionTestCase

from server.accounts.models import Workshop
from server.accounts.services import register
from server.config.append_only import AppendOnly
from server.config.writes import touch, writing
from server.jobs.models import Job
from server.order.models import JobSummary
from server.order.summaries import jobs_touched_by

from .base import PASSWORD, ApiTestCase


class WritingTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.done = []
        patched = mock.patch(
            "server.config.writes.follows", [lambda jobs: self.done.append(set(jobs))]
        )
        patched.start()
        self.addCleanup(patched.stop)

    def test_once_at_the_end_of_the_outermost_block(self):
        with writing():
            touch(1)
            with writing():
                touch(2)
                touch(1)
            self.assertEqual(self.done, [])
        self.assertEqual(self.done, [{1, 2}])

    def test_nothing_where_nothing_was_touched(self):
        with writing():
            pass
        self.assertEqual(self.done, [])

    def test_outside_a_block_at_once(self):
        touch(7)
        self.assertEqual(self.done, [{7}])

    def test_nothing_where_it_failed(self):
        with self.assertRaises(ValueError), writing():
            touch(1)
            raise ValueError
        with writing():
            touch(2)
        self.assertEqual(self.done, [{2}])

    def test_an_inner_block_that_failed_takes_only_itself_along(self):
        with writing():
            Workshop.objects.create(name="kept")
            with self.assertRaises(ValueError), writing():
                Workshop.objects.create(name="gone")
                raise ValueError
        names = set(Workshop.objects.values_list("name", flat=True))
        self.assertIn("kept", names)
        self.assertNotIn("gone", names)

    def test_what_follows_fails_and_nothing_is_written(self):
        def fails(jobs):
            raise RuntimeError("no summary can be made")

        with (
            mock.patch("server.config.writes.follows", [fails]),
            self.assertRaises(RuntimeError),
            writing(),
        ):
            Workshop.objects.create(name="half")
            touch(1)
        self.assertFalse(Workshop.objects.filter(name="half").exists())
        with writing():  # the next block is not burdened by it
            pass
        self.assertEqual(self.done, [])

    def test_as_a_decorator_it_gives_back_what_the_function_does(self):
        @writing()
        def work(value):
            touch(3)
            return value + 1

        self.assertEqual(work(1), 2)
        self.assertEqual(work(2), 3)
        self.assertEqual(self.done, [{3}, {3}])


class ThreadTests(TransactionTestCase):
    def test_threads_do_not_see_what_others_touched(self):
        seen = []
        barrier = threading.Barrier(2)

        def work(number):
            try:
                with writing():
                    touch(number)
                barrier.wait(5)
            finally:
                connection.close()

        with mock.patch("server.config.writes.follows", [lambda jobs: seen.append(set(jobs))]):
            threads = [threading.Thread(target=work, args=(n,)) for n in (1, 2)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
        self.assertEqual(sorted(map(tuple, seen)), [(1,), (2,)])

    def test_the_last_writer_leaves_the_summary_that_stands(self):
        user = register(username="anna", password=PASSWORD, workshop="Shed")
        self.client.force_login(user)
        from .base import FOUR

        job = self.client.post("/api/jobs", {"name": "Heron", "engine": FOUR}, content_type="application/json").json()["id"]  # fmt: skip

        def rename(name):
            try:
                for _ in range(5):
                    with writing():
                        row = Job.objects.get(pk=job)
                        row.name = name
                        row.save()
            finally:
                connection.close()

        threads = [threading.Thread(target=rename, args=(f"Heron {n}",)) for n in range(3)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        body = JobSummary.objects.get(job=job).body
        self.assertIn(f'"name":"{Job.objects.get(pk=job).name}"', body.replace('": "', '":"'))


class TouchedTests(SimpleTestCase):
    def test_every_row_that_is_written_once_is_known_to_its_job(self):
        unknown = set()
        for model in apps.get_models():
            if not issubclass(model, AppendOnly):
                continue
            row = model()
            fields = {field.name: field for field in model._meta.concrete_fields}
            if "job" in fields:
                row.job_id = 7
            else:
                for name, field in fields.items():
                    above = field.related_model if field.is_relation else None
                    if above is not None and hasattr(above, "job_id"):
                        setattr(row, name, above(pk=3, job_id=7))
            if set(jobs_touched_by(row)) != {7}:
                unknown.add(model.__name__)
        self.assertEqual(unknown, set())

    def test_what_belongs_to_no_job_touches_none(self):
        self.assertEqual(tuple(jobs_touched_by(Workshop(pk=1))), ())
        self.assertEqual(tuple(jobs_touched_by(JobSummary(job_id=1))), ())
        self.assertEqual(tuple(jobs_touched_by(Job(pk=5))), (5,))
