"""Views beside the cameras of a library of others, in the tests' browser."""

import unittest

import numpy as np
from scipy.spatial.transform import Rotation

from jointed_crane.core.viewing.view import View
from tests.browser.chromium import browser
from tests.browser.lottie_players import VENDOR

WIDE, HIGH = 1280.0, 720.0
#: Where points are seen by cameras. There y runs upwards, so places and turns are mirrored on the way.
SEEN = """
async ([cameras, wide, high]) => {
  const { PerspectiveCamera } = await import("/cameras/PerspectiveCamera.js");
  const { OrthographicCamera } = await import("/cameras/OrthographicCamera.js");
  const { Vector3 } = await import("/math/Vector3.js");
  return cameras.map(({ place: [x, y, z], turn: [i, j, k, w], focal, scale, points }) => {
    const angle = (2 * Math.atan(high / 2 / focal) * 180) / Math.PI;
    const [across, down] = [wide / 2 / scale, high / 2 / scale];
    const camera = focal
      ? new PerspectiveCamera(angle, wide / high, 0.1, 1e5)
      : new OrthographicCamera(-across, across, down, -down, 0.1, 1e5);
    camera.position.set(x, -y, z);
    camera.quaternion.set(-i, j, -k, w);
    camera.updateMatrixWorld();
    return points.map(([px, py, pz]) => {
      const seen = new Vector3(px, -py, pz).project(camera);
      return [((seen.x + 1) * wide) / 2, ((1 - seen.y) * high) / 2];
    });
  });
}
"""


class ViewTests(unittest.TestCase):
    def test_views_see_what_cameras_of_another_library_see(self):
        page = browser().new_page()
        self.addCleanup(page.close)
        page.route("http://cameras.invalid/**", answer)
        page.goto("http://cameras.invalid/")
        random = np.random.default_rng(11)
        cameras, wanted = [], []
        for number in range(1_000):
            turn = Rotation.random(random_state=np.random.RandomState(number))
            place = random.normal(size=3) * 800
            focal = None if number % 4 == 0 else float(random.uniform(100, 4000))
            scale = float(random.uniform(0.1, 5))
            ahead = turn.apply(np.column_stack([random.normal(size=(4, 2)) * 200, -random.uniform(50, 3000, 4)]))
            view = View(tuple(place), tuple(turn.as_quat()), focal, scale, (WIDE / 2, HIGH / 2))
            points = place + ahead
            seen = np.column_stack([points, np.ones(4)]) @ view.matrix.T
            wanted.append(seen[:, :2] / seen[:, 2:])
            told = {"place": place.tolist(), "turn": turn.as_quat().tolist(), "focal": focal, "scale": scale}
            cameras.append(told | {"points": points.tolist()})
        found = np.array(page.evaluate(SEEN, [cameras, WIDE, HIGH]))
        np.testing.assert_allclose(found, np.array(wanted), rtol=1e-9, atol=1e-7)


def answer(route):
    """The library's modules; the page itself is empty."""
    path = VENDOR / "three" / route.request.url.partition(".invalid/")[2]
    if path.is_file():
        route.fulfill(body=path.read_text(), content_type="text/javascript")
    else:
        route.fulfill(body="<!doctype html>", content_type="text/html")
