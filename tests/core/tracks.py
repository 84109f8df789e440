"""Tracks of a satellite receiver as files, and drives that they were recorded with; invented."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import numpy as np

_BEGIN = datetime(2026, 5, 3, 23, 58, 30, tzinfo=UTC)  # some run through midnight


def sentence(body):
    """Return an NMEA sentence with its checksum: all letters between $ and * by exclusive or."""
    checksum = 0
    for letter in body:
        checksum ^= ord(letter)
    return f"${body}*{checksum:02X}"


def nmea(time_s, speed_kmh, altitude_m):
    """Return a track as RMC and GGA sentences."""
    lines = []
    for at, speed, altitude in zip(time_s, speed_kmh, altitude_m, strict=True):
        when = _BEGIN + timedelta(seconds=float(at))
        clock = f"{when:%H%M%S}.{when.microsecond // 10000:02d}"
        lines.append(
            sentence(
                f"GPRMC,{clock},A,5230.000,N,01322.000,E,{speed / 1.852:.3f},84.4,{when:%d%m%y},,"
            )
        )
        lines.append(
            sentence(f"GPGGA,{clock},5230.000,N,01322.000,E,1,08,0.9,{altitude:.1f},M,46.9,M,,")
        )
    return "\r\n".join(lines).encode()


def gpx(time_s, speed_kmh, altitude_m):
    """Return a track as GPX 1.1, which says where it was and not how fast: it goes due north."""
    metres = np.concatenate([[0.0], np.cumsum(np.diff(time_s) * np.asarray(speed_kmh)[1:] / 3.6)])
    points = "".join(
        f'<trkpt lat="{52.0 + way / 111_194.9:.9f}" lon="13.0"><ele>{altitude:.1f}</ele>'
        f"<time>{(_BEGIN + timedelta(seconds=float(at))).isoformat().replace('+00:00', 'Z')}</time></trkpt>"
        for at, way, altitude in zip(time_s, metres, altitude_m, strict=True)
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n<gpx version="1.1" creator="none" '
        f'xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{points}</trkseg></trk></gpx>'
    ).encode()


def driven(seed, seconds=400.0):
    """Return (times, road speed, engine speed, altitude) of a drive with stops and five gears. [s, km/h, 1/min, m]"""
    draw = np.random.default_rng([seed, 0x6B5])
    time_s = np.arange(0.0, seconds, 0.1)
    holds = np.repeat(draw.choice([0.0, 25.0, 50.0, 70.0, 95.0], int(seconds / 20.0) + 1), 200)[
        : time_s.size
    ]
    speed = np.zeros_like(time_s)
    for i in range(1, time_s.size):
        speed[i] = speed[i - 1] + np.clip(holds[i] - speed[i - 1], -0.9, 0.6)
    gear = np.digitize(speed, [18.0, 35.0, 55.0, 80.0])
    rpm = np.maximum(850.0, speed * np.array([120.0, 68.0, 46.0, 35.0, 29.0])[gear])
    altitude = 120.0 + 15.0 * np.sin(time_s / 90.0)
    return time_s, speed, rpm, altitude
