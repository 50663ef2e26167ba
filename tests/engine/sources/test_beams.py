"""Beams and streams against closed forms and what artists count on."""

import math
from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, read_recipe, render_frame
from handful.engine.kernels.chance.hash import key_for
from handful.engine.kinds import At
from handful.engine.named import Pin, Sway
from handful.engine.picture import Region
from handful.engine.render.resolve import Resolver, Take
from handful.engine.values import Point

WIDTH, HEIGHT = 400, 240


def _beam(frame: int = 1, scale: float = 1.0, rate: float = 25, **settings: object) -> np.ndarray:
    """A plain beam: no unevenness, no sheath, light 1."""
    source = {
        "kind": "beam", "start": [60, 120], "end": [340, 120], "width": 10, "far_width": 10,
        "core_light": 0, "sheath": "#ffffff", "sheath_light": -12, "uneven": 0, "rough": 0, "flicker": 0,
    } | settings  # fmt: skip
    return render_frame(_recipe(source, rate=rate), frame, scale)


def _recipe(source: dict[str, Any], first: int = 1, rate: float = 25, **more: object) -> Recipe:
    canvas = {"width": WIDTH, "height": HEIGHT, "rate": rate, "first": 1, "last": 50}
    layer = {"id": "a", "name": "A", "source": source, "first": first}
    return read_recipe({"version": 3, "name": "A", "canvas": canvas, "layers": [layer]} | more)


class Profile(TestCase):
    def test_across_it_holds_width_times_light(self) -> None:
        """Closed form: the edge rises evenly about half the width, so feather adds nothing."""
        for width in (0.6, 1.5, 4, 23, 80):
            for feather in (0, 40, 100):
                with self.subTest(width=width, feather=feather):
                    picture = _beam(width=width, far_width=width, feather=feather)
                    column = picture[:, 200, 0]
                    self.assertAlmostEqual(float(column.sum()) / width, 1.0, delta=0.01)

    def test_any_angle_and_scale(self) -> None:
        """Closed form: px of the middle piece hold length times width, whatever the direction."""
        for degrees in (0, 17, 45, 90):
            for scale in (1.0, 0.5):
                angle = math.radians(degrees)
                ux, uy = math.cos(angle), math.sin(angle)
                start, end = [200 - 110 * ux, 120 - 110 * uy], [200 + 110 * ux, 120 + 110 * uy]
                picture = _beam(scale=scale, start=start, end=end, near_tip="flat", far_tip="flat")
                energy = float(picture[..., 0].sum()) / scale**2
                self.assertAlmostEqual(energy / (220 * 10), 1.0, delta=0.01)

    def test_half_width(self) -> None:
        """Definition: half its light at half its width."""
        column = _beam(width=40, far_width=40, feather=80)[:, 200, 0]
        places = np.arange(HEIGHT) + 0.5
        self.assertAlmostEqual(float(np.interp(140.0, places, column)), 0.5, delta=0.02)

    def test_widens_evenly(self) -> None:
        """Definition: the width goes in a straight line from one end to the other."""
        picture = _beam(width=10, far_width=50, feather=20)
        for x, width in ((130, 20), (200, 30), (270, 40)):
            self.assertAlmostEqual(float(picture[:, x, 0].sum()), width, delta=0.6)

    def test_faded_tips_have_no_step(self) -> None:
        """Along its middle the light of a faded tip never jumps."""
        row = _beam(near_tip="faded", far_tip="faded", tip=80)[120, :, 0]
        self.assertLess(float(np.abs(np.diff(row)).max()), 0.03)
        self.assertGreater(float(row.max()), 0.95)

    def test_round_tip_ends_where_stated(self) -> None:
        """Closed form: a round tip shines half at half its width beyond its end."""
        row = _beam(width=30, far_width=30, feather=30)[120, :, 0]
        self.assertAlmostEqual(
            float(np.interp(355.0, np.arange(WIDTH) + 0.5, row)), 0.5, delta=0.05
        )


class Flying(TestCase):
    def _extent(self, frame: int, rate: float) -> tuple[float, float]:
        flying = {"moves": "rate", "start": 0, "per_second": 1500, "since": "layer"}
        picture = _beam(
            frame, rate=rate, mode="flying", travelled=flying, length=90, near_tip="flat",
            far_tip="flat",
        )  # fmt: skip
        lit = picture[120, :, 0]
        return float(lit.sum()), float(
            (lit * (np.arange(WIDTH) + 0.5)).sum() / max(lit.sum(), 1e-9)
        )

    def test_two_frames_of_flight(self) -> None:
        """Closed form: after two frames the head has come 2 / rate seconds times the speed."""
        for rate in (25, 48):
            length, middle = self._extent(3, rate)
            head = 2 / rate * 1500
            wanted = min(90.0, head)
            self.assertAlmostEqual(length, wanted, delta=0.6)
            self.assertAlmostEqual(middle, 60 + head - wanted / 2, delta=0.6)

    def test_tail_leaves_last(self) -> None:
        """Common practice: the head is there first; the tail then runs into the end and is gone."""
        lengths = [self._extent(frame, 25)[0] for frame in range(1, 12)]
        self.assertEqual(lengths[0], 0)
        self.assertAlmostEqual(max(lengths), 90, delta=0.6)
        self.assertEqual(lengths[-1], 0)


class Flow(TestCase):
    def test_unevenness_travels(self) -> None:
        """What is seen at one place is seen a flow further on, that much later."""
        still = {"boil": 0, "uneven": 100, "size": 60, "width": 12, "far_width": 12}
        before = _beam(flow=0, **still)[120, :, 0]
        after = _beam(flow=37, **still)[120, :, 0]
        self.assertGreater(float(before[80:280].std()), 0.05)
        np.testing.assert_allclose(after[117:317], before[80:280], atol=0.02)

    def test_strands_wind_round_it(self) -> None:
        """Closed form: a strand is on one side and the other once for each turn."""
        bare, wound = (
            _beam(strands=count, strand_off=400, pitch=140, strand_width=3, boil=0, turned=0)
            for count in (0, 1)
        )
        strand = (wound - bare)[..., 0]
        above = (strand[:110] > 0.2).any(axis=0)
        crossings = int(np.count_nonzero(np.diff(above.astype(int)) == 1))
        self.assertEqual(crossings, 2)


def _stream(frame: int, **settings: object) -> np.ndarray:
    """The middle line `(N, 2)` of a stream at a frame."""
    source = {"kind": "stream", "start": [40, 120], "end": [2040, 120]} | settings
    more: dict[str, Any] = {"sways": [{"name": "swell", "amount": 90, "pins": [{"at": [40, 120], "distance": 500}],
                       "drift": {"moves": "rate", "start": [0, 0], "per_second": [500, 0]}}]}  # fmt: skip
    recipe = _recipe(source, **more)
    stream: Any = Resolver(recipe).source(recipe.layers[0], Take.of(frame))
    points: np.ndarray = stream.curve(
        At(Region(0, 0, WIDTH, HEIGHT), 1.0, (0, "a", "source"))
    ).points
    return points


class Streams(TestCase):
    def test_mouth_is_still_while_the_far_end_sways(self) -> None:
        """A pinned mouth moves less than a tenth of a px over two seconds, by either kind of wave."""
        for settings in ({}, {"sway": "swell"}):
            lines = [_stream(frame, **settings) for frame in range(1, 50, 4)]
            mouths = np.array([line[0] for line in lines])
            ends = np.array([line[-1] for line in lines])
            self.assertLess(float(np.ptp(mouths, axis=0).max()), 0.1)
            self.assertGreater(float(np.ptp(ends[:, 1])), 30)

    def test_held_at_both_ends(self) -> None:
        lines = [_stream(frame, held="at both ends") for frame in (1, 20, 40)]
        ends = np.array([line[-1] for line in lines])
        np.testing.assert_allclose(ends, np.broadcast_to((2040, 120), ends.shape), atol=0.1)

    def test_waves_travel_from_the_mouth(self) -> None:
        """What the wave does at one place it does a travel further on, that much later."""
        plain = {"boil": 0, "soft": 1, "waves": 300}
        before, after = _stream(1, travel=0, **plain), _stream(1, travel=120, **plain)
        across = np.interp(np.arange(300, 1700), before[:, 0], before[:, 1])
        later = np.interp(np.arange(420, 1820), after[:, 0], after[:, 1])
        self.assertLess(float(np.abs(across - later).max()), 2.0)
        self.assertGreater(float(np.ptp(across)), 40)

    def test_no_wave_pushes_farther_than_stated(self) -> None:
        away = np.abs(_stream(7, push=80, soft=1)[:, 1] - 120)
        self.assertLessEqual(float(away.max()), 80)
        self.assertGreater(float(away.max()), 20)


class SharedSway(TestCase):
    def _sway(self) -> Sway:
        pin = Pin(at=Point(50, 60), distance=120)
        return Sway(
            amount=40, along="all ways", size=150, turbulence=30, boil=0.4, drift=Point(13, 7),
            pins=(pin,), seed=3,
        )  # fmt: skip

    def test_points_and_px_are_pushed_alike(self) -> None:
        """A place is pushed as the px there is, so that what is drawn and what is warped ride together."""
        sway, key = self._sway(), key_for("sway")
        field = sway.offsets(Region(0, 0, 200, 150), 1.0, key)
        places = np.array([(x + 0.5, y + 0.5) for x in (3, 77, 140, 199) for y in (0, 60, 149)])
        pushed = sway.pushes(places, key)
        wanted = np.array([field[int(y), int(x)] for x, y in places])
        np.testing.assert_allclose(pushed, wanted, atol=0.25)
        self.assertGreater(float(np.abs(pushed).max()), 5)

    def test_a_pin_holds(self) -> None:
        pushed = self._sway().pushes(np.array([[50.0, 60.0]]), key_for("sway"))
        np.testing.assert_array_equal(pushed, 0)
