"""Two faults at once: named as what they are, as their class, or not at all; never another one with confidence."""

from collections import Counter

from django.test import SimpleTestCase

from tests.examples import few

from .paired_faults import PAIRS, SINGLES, said_of


class PairedFaultTests(SimpleTestCase):
    def told(self, cases):
        said, firsts = Counter(), []
        for seed in range(500, 500 + few(20) // 5):
            for faults in cases:
                kind, is_first = said_of("port_four", faults, seed)
                said[kind] += 1
                firsts.append(is_first)
        print(
            f"\nof {len(cases[0])} faults at once: {dict(said)}, first named is one or of its class in {sum(firsts)} of {len(firsts)}"
        )
        return said, firsts

    def test_a_pair_is_never_taken_for_something_else(self):
        said, _ = self.told(PAIRS)
        self.assertEqual(said["wrong"], 0)
        self.assertGreater(said["class"] + said["named"] + said["one"], len(PAIRS) / 2)

    def test_one_fault_or_its_class_comes_first(self):
        said, firsts = self.told(SINGLES)
        self.assertEqual(said["wrong"], 0)
        self.assertGreaterEqual(sum(firsts), 0.75 * len(firsts))
