"""The recipes of docs/adding.md, followed in a copy of the package: an edit, a check and a constraint made up here."""

import re
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1]
RECIPES = dict(re.findall(r"^## (.+?)\n(.*?)(?=^## |\Z)", (ROOT / "docs" / "adding.md").read_text(), re.M | re.S))

EDIT = '''
"""The edit that writes the name of a part in capitals."""

from dataclasses import dataclass, replace

from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.model.scene import Scene


@dataclass(frozen=True)
class WriteLarge(Edit, kind="write_large"):
    """Write the name of a part in capitals."""

    part: str

    def label(self, scene: Scene) -> str:
        return f"Write {scene.part(self.part).name} large"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        return scene.with_parts([replace(part, name=part.name.upper())])
'''
CHECK = '''
"""Names that are written in capitals."""

from collections.abc import Iterator

from jointed_crane.core.checks.finding import Finding, Rig

NAME = "Written large"


def find(rig: Rig) -> Iterator[Finding]:
    """Parts whose names have no small letters."""
    for part in rig.scene.parts:
        if part.name.isupper():
            yield Finding(NAME, part.id, f"{part.name} is written large.")
'''
CONSTRAINT = '''
"""Lean: turned by as much as the goal lies to the right."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from jointed_crane.core.constraints.constraint import Constraint, Given, Goal, Number, choice_field, goal_field
from jointed_crane.core.constraints.placements import PlacedParts


@dataclass(frozen=True, kw_only=True)
class Lean(Constraint):
    """The part turns by a degree for each px that the goal lies to the right of it."""

    goal: Goal = goal_field("towards", spots=(0.0,))
    is_backward: bool = choice_field("backward", False)
    kind: Literal["lean"] = "lean"

    NUMBERS = (Number("offset", "Offset", unit="deg", mirror="xy"),)
    MOVES = False
    ACT = "Lean towards the part picked before"

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        away = given.points[0][0] - placed.place[0]
        turn = np.deg2rad((-1 if self.is_backward else 1) * away + given.numbers["offset"])
        return placed.turned_by(given.numbers["weight"] * turn)
'''
LOOK = """
import dataclasses, io, unittest
from jointed_crane.core.checks import findings
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.constraining import Constrain
from jointed_crane.core.edits.every import EDITS
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.constraints.every import KINDS
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.formats.edit_document import edit_from
import jointed_crane, tests.core.test_every_constraint as kinds

assert {where!r} in jointed_crane.__file__, jointed_crane.__file__
scene = Scene("s", "S", parts=(Part("p", "Part"), Part("g", "Goal", rest={{"move.x": 30.0}})))
large = applied(scene, [edit_from({{"edit": "write_large", "part": "p"}})])
assert large.part("p").name == "PART"
assert [one.check for one in findings(large, frozenset()) if one.part == "p"].count("Written large") == 1
leaning = applied(scene, [Constrain("p", KINDS["lean"](id="c", name="Lean", goal=Goal(part="g")))])
world = evaluate(leaning, [0.0]).world_of("p")
assert abs(world[1, 0] - 0.5) < 1e-9, world  # the sine of 30 degrees
result = unittest.TextTestRunner(io.StringIO()).run(unittest.defaultTestLoader.loadTestsFromModule(kinds))
assert result.wasSuccessful(), (result.failures, result.errors)
"""


class RecipeTests(unittest.TestCase):
    def follow(self, recipe, name, text, beside, old, new):
        """Write a module where a recipe says, and change the one line that it names."""
        place = self.core / name
        place.write_text(text.lstrip())
        words = RECIPES[recipe]
        self.assertIn(f"{beside.rpartition('/')[2]}", words)
        file = self.core / beside
        before = file.read_text()
        self.assertEqual(before.count(old), 1, beside)
        file.write_text(before.replace(old, new))

    def test_they_are_true(self):
        with tempfile.TemporaryDirectory() as name:
            where = Path(name).resolve()
            for folder in ("jointed_crane", "tests"):
                shutil.copytree(ROOT / folder, where / folder, ignore=shutil.ignore_patterns("__pycache__", "browser"))
            self.core = where / "jointed_crane" / "core"
            self.follow("An edit", "edits/scene/writing_large.py", EDIT, "edits/scene/__init__.py",
                        "naming, parts, stage\n", "naming, parts, stage, writing_large\n")  # fmt: skip
            self.follow("A check", "checks/written_large.py", CHECK, "checks/__init__.py",
                        "\nCHECKS: tuple[Check, ...] = (", "\nfrom jointed_crane.core.checks import written_large\n\n"
                        "CHECKS: tuple[Check, ...] = (\n    written_large,")  # fmt: skip
            self.follow("A constraint", "constraints/lean.py", CONSTRAINT, "constraints/every.py",
                        "AlongPath, StayAbove)\n", "AlongPath, StayAbove, Lean)\n")  # fmt: skip
            every = self.core / "constraints" / "every.py"
            every.write_text(f"from jointed_crane.core.constraints.lean import Lean\n{every.read_text()}")
            look = LOOK.format(where=str(where))
            done = subprocess.run([sys.executable, "-c", look], cwd=where, capture_output=True, text=True, check=False)
            self.assertEqual((done.returncode, done.stderr[-3000:]), (0, ""))
