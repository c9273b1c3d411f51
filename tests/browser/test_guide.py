"""The guide is true: each page is driven by its own words, and its scene, its labels and its outcomes are there."""

from dataclasses import replace

from jointed_crane.web.guide.lessons import lessons
from tests.browser.guide_driver import PICTURES, GuideCase


class GuideTests(GuideCase):
    """One test a page, made below."""

    def test_every_page_has_a_picture_and_they_are_thirteen(self):
        self.assertEqual(len(lessons()), 13)
        self.assertEqual({path.stem for path in PICTURES.glob("*.webp")}, {lesson.slug for lesson in lessons()})

    def test_a_page_with_one_label_changed_fails(self):
        lesson = next(lesson for lesson in lessons() if lesson.slug == "add-a-helper")
        first = lesson.steps[0]
        told = replace(first, words=first.words.replace("{G}", "{K}"))
        with self.assertRaises(AssertionError):
            self.assert_said(told)
        gone = replace(first, do=(*first.do, "press 'No such label'"))
        with self.assertRaises(AssertionError):
            self.page.goto(f"{self.served.address}/guide/{lesson.slug}")
            self.do_press(gone.do[-1].split("'")[1])


def _driven(lesson):
    def test(self):
        self.drive(lesson)

    return test


for _lesson in lessons():
    setattr(GuideTests, f"test_page_{_lesson.slug.replace('-', '_')}", _driven(_lesson))
