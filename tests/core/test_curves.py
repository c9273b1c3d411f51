import unittest

import numpy as np
from scipy.interpolate import BPoly, PchipInterpolator, PPoly
from scipy.optimize import brentq

from jointed_crane.core.motion.bezier import bezier_parameter
from jointed_crane.core.motion.channel import Channel, Key, Sway
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.motion.editing import turned_round
from jointed_crane.core.motion.segments import unshaped_slopes
from jointed_crane.core.motion.stretches import stretches


def at(channel: Channel, *frames: float) -> list[float]:
    return [float(value) for value in values(PackedCurves((channel,)), np.array(frames, dtype=float))[0]]


class CurveTests(unittest.TestCase):
    def test_unit_span_is_css_cubic_bezier(self):
        # CSS Easing 1, cubic-bezier(x1, y1, x2, y2): solved here by an independent root finder (SciPy's brentq).
        for x1, y1, x2, y2 in [
            (0.25, 0.1, 0.25, 1),
            (0.42, 0, 1, 1),
            (0, 0, 1, 1),
            (1, 0, 0, 1),
            (0.3, -1.5, 0.7, 2.2),
        ]:
            channel = Channel((Key(0, 0, "eased", None, (x1, y1)), Key(1, 1, "eased", (x2 - 1, y2 - 1), None)))
            for share in np.linspace(0.001, 0.999, 40):

                def excess(u, share=share, x1=x1, x2=x2):
                    return 3 * (1 - u) ** 2 * u * x1 + 3 * (1 - u) * u**2 * x2 + u**3 - share

                u = brentq(excess, 0, 1, xtol=1e-15)
                expected = 3 * (1 - u) ** 2 * u * y1 + 3 * (1 - u) * u**2 * y2 + u**3
                self.assertAlmostEqual(at(channel, share)[0], expected, delta=1e-9)

    def test_parameter_is_found_for_every_monotone_cubic(self):
        random = np.random.default_rng(3)
        x1, x2 = random.random(20_000), random.random(20_000)
        x1[:500], x2[:500] = 1.0, 0.0
        x1[500:1000], x2[500:1000] = 0.0, 1.0
        share = random.random(20_000)
        share[:10] = [0, 0.5, 1e-12, 1 - 1e-12, 0.5 + 1e-9, 0.25, 0.75, 1e-6, 0.4999999, 0.1]
        a, b, c = 1 + 3 * x1 - 3 * x2, 3 * x2 - 6 * x1, 3 * x1
        u = bezier_parameter(share, a, b, c)
        self.assertTrue(((u >= 0) & (u <= 1)).all())
        self.assertLess(np.abs(((a * u + b) * u + c) * u - share).max(), 1e-12)

    def test_a_curve_that_goes_straight_up_is_solved_to_the_last_digit_there(self):
        # With handles across the whole segment x(u) is 4 (u - 1/2)^3 + 1/2, whose inverse is written down at once.
        shares = 0.5 + np.concatenate([[0.0], *(np.array([-1.0, 1.0]) * 10.0**-power for power in range(1, 17))])
        ones = np.ones_like(shares)
        found = bezier_parameter(shares, 4 * ones, -6 * ones, 3 * ones)
        np.testing.assert_allclose(found, 0.5 + np.cbrt((shares - 0.5) / 4), rtol=0, atol=1e-15)

    def test_slopes_and_extremes_of_200_segments_are_those_of_scipys_polynomials(self):
        # SciPy's BPoly holds the same control points in the Bernstein basis, and knows its derivatives and roots.
        random = np.random.default_rng(11)
        for _ in range(200):
            x1, x2 = random.uniform(0.05, 0.95, 2)
            y1, y2 = random.normal(size=2) * 2
            x, y = (BPoly([[0.0], [one], [two], [1.0]], [0, 1]) for one, two in ((x1, x2), (y1, y2)))
            channel = Channel((Key(0, 0, "eased", None, (x1, y1)), Key(1, 1, "eased", (x2 - 1, y2 - 1), None)))
            curve = PackedCurves((channel,))
            u = np.linspace(0.1, 0.9, 9)
            u = u[x.derivative()(u) > 0.05]
            step = 1e-5
            beside = np.sort(np.concatenate([x(u) - step, x(u) + step]))
            found = values(curve, beside)[0]
            places = np.searchsorted(beside, x(u))
            slopes = (found[places] - found[places - 1]) / (2 * step)
            if (np.diff(x(u)) > 3 * step).all():
                np.testing.assert_allclose(slopes, y.derivative()(u) / x.derivative()(u), rtol=2e-3, atol=2e-3)
            extremes = PPoly.from_bernstein_basis(y.derivative()).roots(extrapolate=False)
            for root in extremes:
                self.assertAlmostEqual(values(curve, np.array([float(x(root))]))[0, 0], float(y(root)), delta=1e-9)
            whole = values(curve, np.linspace(0, 1, 401))[0]
            heights = [0.0, 1.0, *map(float, y(extremes))]
            self.assertLessEqual(whole.max(), max(heights) + 1e-9)
            self.assertGreaterEqual(whole.min(), min(heights) - 1e-9)

    def test_hold_is_right_continuous(self):
        channel = Channel((Key(0, 3.0, "hold"), Key(10, 7.0, "hold"), Key(20, -2.0)))
        frames = np.array([0.0, 9.999999, 10.0, 10.000001, 19.999999, 20.0])
        np.testing.assert_array_equal(values(PackedCurves((channel,)), frames)[0], [3, 3, 7, 7, 7, -2])

    def test_unshaped_slopes_inside_are_those_of_pchip(self):
        random = np.random.default_rng(5)
        frames = np.sort(random.choice(100, 12, replace=False)).astype(float)
        heights = random.normal(size=12)
        expected = PchipInterpolator(frames, heights).derivative()(frames[1:-1])
        np.testing.assert_allclose(unshaped_slopes(frames, heights)[1:-1], expected, atol=1e-12)

    def test_unshaped_slopes_are_flat_at_ends_and_extremes(self):
        slopes = unshaped_slopes(np.array([0.0, 10, 20, 30]), np.array([0.0, 5, 2, 9]))
        self.assertEqual([slopes[0], slopes[1], slopes[2], slopes[3]], [0, 0, 0, 0])

    def test_eased_motion_does_not_overshoot_unasked(self):
        random = np.random.default_rng(11)
        for _ in range(50):
            frames = np.sort(random.choice(60, 6, replace=False)).astype(float)
            channel = Channel(
                tuple(Key(float(f), float(v)) for f, v in zip(frames, random.normal(size=6), strict=True))
            )
            for left, right in zip(channel.keys, channel.keys[1:], strict=False):
                found = at(channel, *np.linspace(left.frame, right.frame, 33))
                low, high = sorted((left.value, right.value))
                self.assertTrue(all(low - 1e-12 <= value <= high + 1e-12 for value in found))

    def test_hold_straight_and_eased_between_two_keys(self):
        for kind, middle in (("hold", 0.0), ("straight", 2.5), ("eased", 0.15625 * 10)):
            channel = Channel((Key(0, 0, kind), Key(8, 10, "eased")))
            # The flat eased segment is 3u^2 - 2u^3: at a quarter 10/64.
            self.assertAlmostEqual(at(channel, 2)[0], middle)
            self.assertEqual(at(channel, 0, 8), [0.0, 10.0])

    def test_turns_are_never_wrapped(self):
        channel = Channel((Key(0, 0, "straight"), Key(72, 1080)))
        self.assertEqual(at(channel, 24, 48, 72), [360.0, 720.0, 1080.0])

    def test_handles_beyond_the_segment_are_clamped_in_time(self):
        reaching = Channel((Key(0, 0, "eased", None, (50, 1)), Key(10, 1, "eased", (-50, 0), None)))
        clamped = Channel((Key(0, 0, "eased", None, (10, 1)), Key(10, 1, "eased", (-10, 0), None)))
        frames = np.linspace(0, 10, 21)
        np.testing.assert_allclose(at(reaching, *frames), at(clamped, *frames))

    def test_outside_the_keys(self):
        keys = (Key(10, 0, "straight"), Key(20, 5, "straight"), Key(30, 4, "straight"))
        frames = (4, 12, 33, 55)
        expected = {
            "hold": [0, 1, 4, 4],
            "straight on": [-3, 1, 3.7, 1.5],
            "repeat": [4.6, 1, 1.5, 2.5],
            "back and forth": [3, 1, 4.3, 2.5],
            "repeat onwards": [0.6, 1, 5.5, 10.5],
        }
        for outside, found in expected.items():
            with self.subTest(outside):
                np.testing.assert_allclose(at(Channel(keys, outside, outside), *frames), found, atol=1e-12)

    def test_stretches_are_the_same_curve_cut_at_both_ends(self):
        random = np.random.default_rng(6)
        for _ in range(20):
            frames = np.sort(random.choice(40, 5, replace=False)) - 5.0
            channel = Channel(
                tuple(
                    Key(
                        float(f),
                        float(random.normal()),
                        str(random.choice(["hold", "straight", "eased"])),
                        (-3.0, 0.5),
                        (4.0, -0.3),
                    )
                    for f in frames
                )
            )
            found = stretches(channel, 0.0, 24.0)
            self.assertEqual((found[0].frames[0], found[-1].frames[3]), (0.0, 24.0))
            for stretch in found:
                u = np.linspace(0, 0.999, 15)
                weights = np.stack([(1 - u) ** 3, 3 * u * (1 - u) ** 2, 3 * u**2 * (1 - u), u**3])
                np.testing.assert_allclose(
                    at(channel, *(stretch.frames @ weights)), stretch.values @ weights, atol=1e-9
                )

    def test_sway_adds_a_sine(self):
        channel = Channel((Key(0, 2.0),), sway=Sway(3.0, 8.0, 0.25))
        self.assertAlmostEqual(at(channel, 0)[0], 5.0)
        self.assertAlmostEqual(at(channel, 2)[0], 2.0)

    def test_many_channels_at_once_equal_each_alone(self):
        random = np.random.default_rng(2)
        channels = []
        for index in range(30):
            frames = np.sort(random.choice(50, 5, replace=False))
            kinds = random.choice(["hold", "straight", "eased"], 5)
            keys = tuple(Key(float(f), float(random.normal()), str(k)) for f, k in zip(frames, kinds, strict=True))
            channels.append(Channel(keys, after="repeat" if index % 3 else "hold"))
        frames = np.linspace(-5, 80, 200)
        together = values(PackedCurves(tuple(channels)), frames)
        for channel, row in zip(channels, together, strict=True):
            np.testing.assert_allclose(row, at(channel, *frames), atol=1e-12)


class EditedKeysTests(unittest.TestCase):
    KEYS = (
        Key(10.0, 3.0, "eased", None, (4.0, 9.0)),
        Key(22.0, -5.0, "straight", (-3.0, 2.0), None),
        Key(30.0, 40.0, "eased", None, (2.0, -7.0)),
        Key(41.0, 1.0, "eased", (-6.0, -2.0), None),
    )

    def test_keys_turned_round_play_backwards(self):
        channel = Channel(self.KEYS)
        back = turned_round(channel, {key.frame for key in self.KEYS})
        frames = np.linspace(10.0, 41.0, 300)  # the middle of the keys is 25.5: backwards is the same frames in reverse
        shown, wanted = (values(PackedCurves((one,)), frames)[0] for one in (back, channel))
        np.testing.assert_allclose(shown, wanted[::-1], atol=1e-9)
