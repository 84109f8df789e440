"""What the host of a session is made of: rows in memory until a disk takes them, and who holds the key."""

import numpy as np
from django.test import SimpleTestCase

from server.config.problems import Refusal
from server.live import rows as rows_module
from server.live.holding import Key
from server.live.rows import Rows


def numbered(first, count):
    """Return rows whose time is their number."""
    return np.arange(first, first + count, dtype=float)[:, None] * [1.0, 10.0]


class RowsTests(SimpleTestCase):
    def setUp(self):
        self.rows, self.disk = Rows(2), {}

    def write(self, first, rows):
        self.disk.update({first + i: row[0] for i, row in enumerate(rows)})

    def full(self, first, rows):
        raise OSError("full")

    def test_rows_keep_their_number_once_the_first_have_left_memory(self):
        self.assertIsNone(self.rows.newest)
        for first in range(0, 6000, 600):
            self.rows.admit(numbered(first, 600))
        self.assertEqual(self.rows.count, 6000)
        self.assertIsNone(self.rows.since(6000 - rows_module.BUFFERED - 1))
        self.assertEqual(self.rows.since(5990)[:, 0].tolist(), list(range(5990, 6000)))
        self.assertEqual(self.rows.number_before(25.0), 6000 - 26)
        self.assertEqual(len(self.rows.held), rows_module.BUFFERED)

    def test_every_row_reaches_the_disk_once_under_its_number(self):
        for first in range(0, 300, 100):
            self.rows.admit(numbered(first, 100))
            self.rows.keep(self.write)
        self.rows.keep(self.full)  # nothing is left to write
        self.assertEqual(self.disk, {n: float(n) for n in range(300)})
        self.assertEqual(self.rows.kept, 300)

    def test_a_full_disk_loses_the_oldest_only_and_numbers_stay_true(self):
        most = rows_module.MOST_UNKEPT
        self.rows.admit(numbered(0, most + 500))
        with self.assertRaises(OSError):
            self.rows.keep(self.full)
        self.assertEqual(self.rows.lost, 500)
        self.rows.admit(numbered(most + 500, 10))
        self.rows.keep(self.write)
        self.assertEqual(sorted(self.disk), list(range(500, most + 510)))
        self.assertTrue(all(n == at for n, at in self.disk.items()))


class KeyTests(SimpleTestCase):
    def test_one_commands_until_nothing_was_commanded_for_a_while(self):
        key = Key()
        self.assertIsNone(key.holder(0.0))
        key.take("one", "left", 0.0)
        for name, tablet, over in (("two", "left", True), ("one", "right", False)):
            with self.subTest(name), self.assertRaises(Refusal) as refused:
                key.take(name, tablet, 10.0, over=over)
            self.assertEqual(refused.exception.status, 409)
        key.take("one", "right", 10.0, over=True)
        self.assertEqual(key.holder(39.0).tablet, "right")
        self.assertIsNone(key.holder(41.0))
        key.take("two", "left", 41.0)
        self.assertEqual(key.holder(41.0).name, "two")
