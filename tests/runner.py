"""Django's test runner, which also says what was slow, and survives what cannot be pickled."""

from __future__ import annotations

import time
import unittest
from collections import Counter
from typing import Any

from django.db.backends.sqlite3.operations import DatabaseOperations
from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner

_SLOWEST = 10


def _flush_with_guards(operations: DatabaseOperations, sql_list: list[str]) -> None:
    """Empty the tables after a test although triggers guard them; the guards stand again after it."""
    with operations.connection.cursor() as cursor:
        cursor.execute("SELECT name, sql FROM sqlite_master WHERE type = 'trigger'")
        guards = cursor.fetchall()
        for name, _ in guards:
            cursor.execute(f'DROP TRIGGER "{name}"')
        _flush(operations, sql_list)
        for _, sql in guards:
            cursor.execute(sql)


_flush = DatabaseOperations.execute_sql_flush
DatabaseOperations.execute_sql_flush = _flush_with_guards  # type: ignore[method-assign]


class TimedRemoteResult(RemoteTestResult):
    """Results of a child process, with how long each test took."""

    def startTest(self, test: unittest.TestCase) -> None:
        self._began = time.perf_counter()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        self.events.append(("took", self.test_index, time.perf_counter() - self._began))
        super().stopTest(test)


class TimedRemoteRunner(RemoteTestRunner):
    resultclass = TimedRemoteResult


class TimedParallelSuite(ParallelTestSuite):
    runner_class = TimedRemoteRunner


class TimedResult(unittest.TextTestResult):
    """The result as it is printed, with how long each test took."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.seconds: dict[str, float] = {}
        self._began: dict[str, float] = {}

    def startTest(self, test: unittest.TestCase) -> None:
        self._began[test.id()] = time.perf_counter()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        took = time.perf_counter() - self._began[test.id()]
        self.seconds.setdefault(test.id(), took)  # a child process has told it already
        super().stopTest(test)

    def took(self, test: unittest.TestCase, seconds: float) -> None:
        """Note how long a test took in a child process."""
        self.seconds[test.id()] = seconds


class Runner(DiscoverRunner):
    """Runs tests as Django does and prints the ten slowest, and the ten slowest modules."""

    parallel_test_suite = TimedParallelSuite

    def get_resultclass(self) -> type[unittest.TextTestResult]:
        return super().get_resultclass() or TimedResult

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> unittest.TestResult:
        result = super().run_suite(suite, **kwargs)
        if isinstance(result, TimedResult):
            by_module: Counter[str] = Counter()
            for name, seconds in result.seconds.items():
                by_module[name.rsplit(".", 2)[0]] += seconds
            print(f"{sum(result.seconds.values()):.0f} s of tests; the slowest:")
            _print_most(Counter(result.seconds))
            if len(by_module) > _SLOWEST:
                print("and the slowest modules:")
                _print_most(by_module)
        return result


def _print_most(seconds: Counter[str]) -> None:
    for name, took in seconds.most_common(_SLOWEST):
        print(f"  {took:6.1f} s  {name}")
