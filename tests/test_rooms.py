"""Rooms and arrows are as docs/how-it-is-built.md draws them; no circle between rooms."""

from django.test import SimpleTestCase

from tests import rooms


class RoomTests(SimpleTestCase):
    def assert_as_promised(self, floor, arrows, exist):
        lines = rooms.promised(floor)
        height = {room: i for i, line in enumerate(lines) for room in line}
        self.assertEqual(set(exist), set(height), "rooms of the document are those there are")
        for start, end, file in arrows:
            low, high = (height[room.split("/")[0]] for room in (end, start))
            with self.subTest(file=file, imports=end):
                self.assertLess(low, high, f"{start} may not import {end}")
        self.assertEqual(rooms.circles({(start, end) for start, end, _ in arrows}), [])

    def test_core(self):
        arrows = list(rooms.python_arrows(rooms.CORE, "inbetrieb_core"))
        self.assertGreater(len(arrows), 200)  # else nothing was drawn
        exist = {
            path.name.removesuffix(".py")
            for path in rooms.CORE.iterdir()
            if path.suffix == ".py" or (path / "__init__.py").exists()
        } - {"__init__"}
        self.assert_as_promised("core", arrows, exist)

    def test_server(self):
        arrows = list(rooms.python_arrows(rooms.SERVER, "server"))
        self.assertGreater(len(arrows), 150)
        exist = {path.parent.name for path in rooms.SERVER.glob("*/__init__.py")}
        self.assert_as_promised("server", arrows, exist)

    def test_web(self):
        arrows = list(rooms.web_arrows())
        self.assertGreater(len(arrows), 150)
        exist = {path.name.split(".")[0] for path in rooms.WEB.iterdir()} | {"registry"}
        self.assert_as_promised("web", arrows, exist)

    def test_a_circle_would_be_seen(self):
        self.assertEqual(rooms.circles({("a", "b"), ("b", "c")}), [])
        self.assertEqual(
            rooms.circles({("a", "b"), ("b", "c"), ("c", "a")})[0], ["a", "b", "c", "a"]
        )
