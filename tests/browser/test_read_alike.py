"""What drawings say is read as the browser reads it: transforms, and colours by which layers are named."""

import re
import unittest

import numpy as np
from PIL import ImageColor

from jointed_crane.formats.svg import layer_names
from jointed_crane.formats.svg.transforms import matrix_of
from tests.browser.chromium import fresh_page

ATTRIBUTES = (
    "rotate(30 10 20)", "rotate(-47.5)", "skewX(20) skewY(-11)", "translate(5,-3)scale(2)", "translate(7)",
    "scale(-1 1)", "matrix(1 .2 3e-1 4 -5 6) , rotate(90)", " scale(0.5,2) translate(1 2) rotate(400) ",
)  # fmt: skip
STYLES = (
    "rotate(0.25turn) translateX(1cm)", "skew(10deg, 5deg)", "translate(1in, 2pt) scaleY(3)", "rotate(1rad)",
    "rotate(50grad)", "scaleX(2) translateY(4px) skewX(15deg) matrix(2, 0, 0, 2, 1, 1)",
)  # fmt: skip
_ATTRIBUTE = """text => {
  const one = document.createElementNS("http://www.w3.org/2000/svg", "g");
  one.setAttribute("transform", text);
  const { a, b, c, d, e, f } = one.transform.baseVal.consolidate().matrix;
  return [a, b, c, d, e, f];
}"""
_STYLE = "text => { const { a, b, c, d, e, f } = new DOMMatrix(text); return [a, b, c, d, e, f]; }"
_OKLAB = """colour => {
  document.body.style.color = `oklab(from ${colour} l a b)`;
  return getComputedStyle(document.body).color;
}"""


class ReadAlikeTests(unittest.TestCase):
    def test_transforms(self):
        page = fresh_page()
        for texts, asked in ((ATTRIBUTES, _ATTRIBUTE), (STYLES, _STYLE)):
            for text in texts:
                with self.subTest(text):
                    matrix = matrix_of(text)
                    # The browser keeps single precision where it reads attributes.
                    np.testing.assert_allclose(matrix[:2].T.ravel(), page.evaluate(asked, text), rtol=2e-6, atol=1e-5)
        for text in ("rotate(x)", "turn(3)", "matrix(1 2 3)", "translate(5%)", "rotate(3px)", "rotate(3", "3"):
            if text != "rotate(3":  # what is cut off is closed (CSS Syntax 3, section 5.4.8)
                with self.assertRaises(ValueError, msg=text):
                    matrix_of(text)

    def test_colours_in_oklab(self):
        page = fresh_page()
        for colour in ("#e8956b", "#000000", "#ffffff", "#1e90ff", "#147873", "#010203"):
            told = [float(number) for number in re.findall(r"-?[\d.]+(?:e-?\d+)?", page.evaluate(_OKLAB, colour))][:3]
            np.testing.assert_allclose(layer_names._oklab([ImageColor.getrgb(colour)])[0], told, atol=2e-4)
