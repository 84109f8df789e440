"""Firing order in the wiring: pairs fire a turn apart. Known engines' pairs, common practice, no source."""

from dataclasses import replace

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.firing import order_of, turn_apart
from inbetrieb_core.wiring import Fitting, injector_groups

from .engines import FOUR


def engine(chambers, **more):
    return EngineSpec(0.5 * chambers, chambers, injectors=InjectorSet(chambers, 400.0), **more)


class FiringOrderTests(SimpleTestCase):
    def test_known_pairs(self):
        for order, pairs in (
            ((1, 3, 4, 2), ((1, 4), (2, 3))),
            ((1, 2, 4, 3), ((1, 4), (2, 3))),
            ((1, 5, 3, 6, 2, 4), ((1, 6), (2, 5), (3, 4))),
            ((1, 4, 2, 5, 3, 6), ((1, 5), (2, 6), (3, 4))),
            ((1, 8, 4, 3, 6, 5, 7, 2), ((1, 6), (2, 3), (4, 7), (5, 8))),
        ):
            self.assertEqual(pairs, turn_apart(order), order)

    @given(st.permutations(range(1, 9)))
    def test_pairs_are_half_the_order_apart_and_name_each_once(self, order):
        pairs = turn_apart(order)
        self.assertEqual(list(range(1, 9)), sorted(n for pair in pairs for n in pair))
        for first, second in pairs:
            self.assertEqual(4, (order.index(first) - order.index(second)) % 8)

    def test_injectors_that_share_an_output_fire_a_turn_apart(self):
        self.assertEqual(((1, 4), (2, 3)), injector_groups(FOUR, Fitting(injection="paired")))
        six = engine(6)
        self.assertEqual(
            ((1, 5), (2, 6), (3, 4)),
            injector_groups(six, Fitting(injection="paired"), (1, 4, 2, 5, 3, 6)),
        )

    def test_a_throttle_bodys_injectors_are_no_cylinders(self):
        body = replace(FOUR, fuelling="throttle_body", injectors=InjectorSet(2, 800.0))
        self.assertEqual(((1, 2),), injector_groups(body, Fitting(injection="paired")))

    def test_rotors_share_no_coil(self):
        rotors = EngineSpec(1.3, 2, injectors=InjectorSet(2, 500.0), cycle="rotary")
        with self.assertRaises(InputRefused):
            Fitting(ignition="wasted_spark").check(rotors)

    def test_an_order_that_is_none_is_not_taken(self):
        self.assertEqual((1, 3, 4, 2), order_of(FOUR, (1, 1, 2, 3)))
