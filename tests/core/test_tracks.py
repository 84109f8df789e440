"""Satellite tracks: read as published, laid on a log where both move alike, or not told."""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.errors import LogRefused
from inbetrieb_core.logs import Trace, is_track, read_track, track_lies, with_track

from tests.examples import few

from .tracks import driven, gpx, nmea, sentence

#: Sentences printed in most descriptions of NMEA 0183 (from memory): 22.4 knots, 545.4 m.
PUBLISHED = (
    "$GPRMC,123519,A,4807.038,N,01131.000,E,022.4,084.4,230394,003.1,W*6A\n"
    "$GPGGA,123519,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,*47\n"
)


def log_of(seed, *, road=True, noise=0.0):
    time_s, speed, rpm, _ = driven(seed)
    draw = np.random.default_rng(seed)
    channels = {"time_s": time_s, "rpm": rpm + noise * 20.0 * draw.standard_normal(rpm.size)}
    if road:
        channels["speed_kmh"] = speed + noise * draw.standard_normal(speed.size)
    return Trace(channels)


def track_of(seed, shift_s, writer=nmea, step=10):
    """The same drive as a receiver saw it, once a second, its clock begun `shift_s` into the log."""
    time_s, speed, _, altitude = driven(seed)
    seen = time_s >= shift_s
    return read_track(writer(time_s[seen][::step], speed[seen][::step], altitude[seen][::step]))


class ReadTests(SimpleTestCase):
    def test_published_sentences(self):
        later = PUBLISHED + "".join(
            sentence(
                line[1 : line.index("*")].replace("123519", "123520").replace("022.4", "030.0")
            )
            + "\n"
            for line in PUBLISHED.splitlines()
        )
        track = read_track(later.encode())
        # A knot is 1.852 km/h (NIST SP 811, appendix B).
        np.testing.assert_allclose(track.speed_kmh, [22.4 * 1.852, 30.0 * 1.852])
        np.testing.assert_allclose(track.altitude_m, 545.4)
        np.testing.assert_allclose(track.time_s, [0.0, 1.0])

    def test_what_is_damaged_or_no_fix_is_passed_over(self):
        lines = nmea([0.0, 1.0, 2.0], [10.0, 20.0, 30.0], [5.0, 6.0, 7.0]).decode().splitlines()
        lines[2] = lines[2].replace("84.4", "84.5")  # its checksum no longer holds
        lost = sentence("GPRMC,235833.00,V,,,,,,,030526,,")
        track = read_track("\n".join(["$GPGSV,3,1,11*", *lines, lost, "", "$", "noise"]).encode())
        np.testing.assert_allclose(track.speed_kmh[[0, 2]], [10.0, 30.0], rtol=1e-3)
        self.assertTrue(np.isnan(track.speed_kmh[[1, 3]]).all())
        np.testing.assert_allclose(track.altitude_m[:3], [5.0, 6.0, 7.0])

    def test_both_forms_say_the_same(self):
        for writer in (nmea, gpx):
            track = track_of(3, 0.0, writer)
            time_s, speed, _, altitude = driven(3)
            np.testing.assert_allclose(track.time_s, time_s[::10], atol=0.01)
            known = np.isfinite(track.speed_kmh)
            np.testing.assert_allclose(
                track.speed_kmh[known], speed[::10][known], rtol=0.005, atol=0.05
            )
            np.testing.assert_allclose(track.altitude_m, altitude[::10], atol=0.06)

    def test_refused_with_a_sentence(self):
        for data, words in (
            (b"time,rpm\n1,2\n", "no track"),
            (b"<?xml version='1.0'?><gpx", "damaged"),
            (b"<?xml version='1.0'?><!DOCTYPE gpx [<!ENTITY a 'b'>]><gpx>&a;</gpx>", "entities"),
            (nmea([0.0], [10.0], [5.0]), "no two fixes"),
        ):
            with self.subTest(words), self.assertRaisesRegex(LogRefused, words):
                read_track(data)
        self.assertFalse(is_track(b"MDF     4.10"))


class LyingTests(SimpleTestCase):
    @settings(max_examples=few(40), deadline=None)
    @given(st.integers(0, 10_000), st.floats(0.0, 180.0), st.sampled_from([nmea, gpx]))
    def test_the_shift_is_found_from_road_speed(self, seed, shift_s, writer):
        lies = track_lies(log_of(seed, noise=0.5), track_of(seed, shift_s, writer))
        first = float(np.ceil(shift_s * 10.0) / 10.0)
        if lies.is_told:
            self.assertAlmostEqual(lies.shift_s, first, delta=0.6)

    def test_how_often_it_is_told(self):
        told, off = {True: 0, False: 0}, []
        for seed in range(few(60)):
            for road in told:
                lies = track_lies(log_of(seed, road=road, noise=0.5), track_of(seed, 60.0))
                told[road] += lies.is_told
                if lies.is_told:
                    off.append(abs(lies.shift_s - 60.0))
        count = few(60)
        print(f"\ntrack laid on a log: told {told[True]} of {count} by road speed, {told[False]} of {count} by engine speed "
              f"alone; off by at most {max(off):.2f} s")  # fmt: skip
        self.assertGreaterEqual(told[True], 0.95 * count)
        self.assertLess(max(off), 0.6)

    def test_another_drive_is_not_laid_on(self):
        told = {
            road: sum(
                track_lies(log_of(seed, road=road), track_of(seed + 500, 0.0)).is_told
                for seed in range(few(100))
            )
            for road in (True, False)
        }
        print(
            f"\ntrack of another drive laid on: {told[True]} by road speed, {told[False]} by engine speed, of {few(100)}"
        )
        self.assertEqual(told[True], 0)
        self.assertLessEqual(told[False], 0.05 * few(100))

    def test_speed_and_altitude_go_where_they_belong(self):
        time_s, speed, _, altitude = driven(4)
        laid = with_track(log_of(4, road=False), track_of(4, 60.0), 60.0)
        inside = time_s > 61.0
        np.testing.assert_allclose(laid["speed_kmh"][inside][:-20], speed[inside][:-20], atol=2.0)
        np.testing.assert_allclose(
            laid["altitude_m"][inside][:-20], altitude[inside][:-20], atol=0.3
        )
        self.assertTrue(np.isnan(laid["altitude_m"][time_s < 59.0]).all())
        own = with_track(log_of(4), track_of(4, 60.0), 60.0)
        np.testing.assert_array_equal(own["speed_kmh"], log_of(4)["speed_kmh"])
        with self.assertRaisesRegex(LogRefused, "nothing of the track"):
            with_track(log_of(4), track_of(4, 60.0), 9000.0)
