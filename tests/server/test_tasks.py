"""Long work: progress, cancelling, failing, a server that died, other people's tasks."""

import threading
from datetime import timedelta

from django.test import TransactionTestCase, override_settings
from django.utils import timezone
from inbetrieb_core.errors import LogRefused

from server.accounts.services import register, workshop_of
from server.config.problems import Refusal
from server.tasks import services
from server.tasks.models import Task

from .base import PASSWORD, ApiTestCase


class StateTests(ApiTestCase):
    def start(self, work):
        return services.start(workshop_of(self.owner), self.owner, "probe", work)

    def test_what_came_of_it(self):
        task = self.start(lambda progress: {"answer": 42})
        found = self.get(f"/tasks/{task.pk}")
        self.assertEqual(
            (found["state"], found["share"], found["result"]), ("done", 1.0, {"answer": 42})
        )

    def test_each_way_of_failing_has_its_sentence(self):
        def fails(error):
            def work(progress):
                raise error

            return work

        for error, status, words in (
            (LogRefused("There is no edge in it.", ["a"]), 422, "no edge"),
            (Refusal(409, "Gate closed", "Not now."), 409, "Not now"),
            (RuntimeError("secret detail"), 500, "nothing was changed"),
        ):
            with self.subTest(error=error):
                if status == 500:
                    with self.assertLogs("server.tasks.services", "ERROR"):
                        task = self.start(fails(error))
                else:
                    task = self.start(fails(error))
                found = self.get(f"/tasks/{task.pk}")
                self.assertEqual((found["state"], found["problem"]["status"]), ("failed", status))
                self.assert_problem(found["problem"], words)
                self.assertNotIn("secret", str(found))

    def test_a_stranger_sees_none_of_it_and_cannot_end_it(self):
        task = self.start(lambda progress: None)
        self.client.force_login(self.stranger)
        self.get(f"/tasks/{task.pk}", 404)
        self.call("delete", f"/tasks/{task.pk}", status=404)

    def test_one_whose_server_was_stopped_is_told_so(self):
        task = self.start(lambda progress: None)
        long_ago = timezone.now() - timedelta(hours=1)
        Task.objects.filter(pk=task.pk).update(state="running", seen_at=long_ago)
        found = self.get(f"/tasks/{task.pk}")
        self.assertEqual(found["state"], "failed")
        self.assertIn("begin again", found["sentence"])

    def test_what_has_ended_stays_ended(self):
        task = self.start(lambda progress: 1)
        self.assertEqual(self.call("delete", f"/tasks/{task.pk}", status=200)["state"], "done")


@override_settings(TASKS_AT_ONCE=False)
class ThreadTests(TransactionTestCase):
    """The work really runs beside the request."""

    def setUp(self):
        self.user = register(username="owner", password=PASSWORD, workshop="Here")
        self.workshop = workshop_of(self.user)

    def state_of(self, task, ended):
        for _ in range(200):
            found = services.task_of(self.user, task.pk)
            if (found.state in ("done", "failed", "cancelled")) == ended:
                return found
            threading.Event().wait(0.05)
        raise AssertionError(found.state)

    def test_progress_is_seen_and_cancelling_ends_it(self):
        told, go = threading.Event(), threading.Event()

        def work(progress):
            progress.tell(0.5, "Half of it.")
            told.set()
            go.wait(10)
            progress._told_at = 0.0  # as if a moment had passed
            progress.tell(0.6, "More of it.")
            raise AssertionError("went on although it was cancelled")

        task = services.start(self.workshop, self.user, "probe", work)
        self.assertTrue(told.wait(10))
        found = services.task_of(self.user, task.pk)
        self.assertEqual(
            (found.state, found.share, found.sentence), ("running", 0.5, "Half of it.")
        )
        services.cancel(self.user, task.pk)
        go.set()
        self.assertEqual(self.state_of(task, ended=True).state, "cancelled")

    def test_one_that_waits_is_cancelled_at_once(self):
        go = threading.Event()
        busy = [
            services.start(self.workshop, self.user, "busy", lambda progress: go.wait(10) and None)
            for _ in range(2)
        ]
        waits = services.start(self.workshop, self.user, "waits", lambda progress: 1)
        self.assertEqual(services.cancel(self.user, waits.pk).state, "cancelled")
        go.set()
        for task in busy:
            self.assertEqual(self.state_of(task, ended=True).state, "done")
        self.assertEqual(services.task_of(self.user, waits.pk).state, "cancelled")
