import ast
import re
import unittest
from collections import Counter
from functools import cache
from pathlib import Path

ROOT = Path(__file__).parents[1] / "jointed_crane"
#: What each room may import of the others; imports run downwards only.
MAY_IMPORT = {
    "core": set(),
    "formats": {"core"},
    "work": {"core", "formats"},
    "reading": {"core", "formats", "work"},
    "render": {"core", "formats"},
    "store": {"core", "formats"},
    "sending": {"core", "formats", "render", "store", "work"},
    "web": {"core", "formats", "work", "reading", "render", "store", "sending"},
    "scripting": {"core", "formats", "work", "reading", "render", "sending", "store"},
    "cli": {"core", "formats", "work", "reading", "sending", "store", "web", "scripting"},
}
CORE_MAY_USE = {"numpy", "scipy", "shapely", "contourpy"}
#: The rooms of the core from the ground up, and the families of edits: each may import those that stand before it.
STOREYS = {
    "core": (
        "basics", "geometry", "outlines", "motion", "constraints", "model", "hierarchy", "shapes",
        "evaluate", "viewing", "soundness", "measures", "edits", "checks",
    ),
    "core/edits": ("shared", "constraints", "placing", "time", "joints", "scene", "pictures", "every"),
}  # fmt: skip
#: No room has more doors than a reader can take in at once.
MOST_ROOMS, MOST_FILES = 14, 16
SCRIPT_IMPORT = re.compile(r"""^(?:import|export)\b[^;"']*?["'](\.[^"']+)["']""", re.M)


@cache
def read(path: Path) -> list[ast.AST]:
    """What stands in a file, wherever it stands in it."""
    return list(ast.walk(ast.parse(path.read_text())))


def imports(path: Path) -> set[str]:
    found = set()
    for node in read(path):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{path} imports relatively"
            found.add(node.module)
    return found


def python_imports() -> dict[Path, set[Path]]:
    """The files of the product that each of them imports."""
    found = {}
    for path in sorted(ROOT.rglob("*.py")):
        found[path] = set()
        for name in imports(path):
            if name.split(".")[0] == "jointed_crane":
                stem = ROOT.parent.joinpath(*name.split("."))
                found[path].add(stem / "__init__.py" if stem.is_dir() else stem.with_suffix(".py"))
    # `from a.package import module` names the package; the module is what is meant.
    for path in found:
        for node in read(path):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("jointed_crane"):
                stem = ROOT.parent.joinpath(*node.module.split("."))
                found[path] |= {
                    stem / f"{alias.name}.py" for alias in node.names if (stem / f"{alias.name}.py").exists()
                }
    return found


def script_imports() -> dict[Path, set[Path]]:
    """The scripts that each script imports."""
    scripts = [path for path in (ROOT / "web").rglob("static/**/*.js") if "vendor" not in path.parts]
    return {
        path: {(path.parent / name).resolve() for name in SCRIPT_IMPORT.findall(path.read_text())}
        for path in sorted(scripts)
    }


def circles(graph: dict[Path, set[Path]]) -> list[str]:
    """In each folder the files and folders that import each other in a circle, by their names."""
    found = []
    for folder in sorted({parent for path in graph for parent in path.parents if ROOT in (parent, *parent.parents)}):
        arrows: dict[str, set[str]] = {}
        for path, others in graph.items():
            if folder not in path.parents:
                continue
            own = path.relative_to(folder).parts[0]
            inside = {other.relative_to(folder).parts[0] for other in others if folder in other.parents}
            arrows.setdefault(own, set()).update(inside - {own})
        while free := [name for name, others in arrows.items() if not others & arrows.keys()]:
            for name in free:
                del arrows[name]
        if arrows:
            found.append(f"{folder.relative_to(ROOT)}: {', '.join(sorted(arrows))}")
    return found


class LayerTests(unittest.TestCase):
    def test_no_two_rooms_import_each_other_in_any_folder(self):
        self.assertEqual(circles(python_imports()), [])
        self.assertEqual(circles(script_imports()), [])

    def test_rooms_of_the_core_import_what_lies_below_them(self):
        for folder, storeys in STOREYS.items():
            rooms = {path.stem for path in (ROOT / folder).iterdir() if path.name not in ("__init__.py", "__pycache__")}
            self.assertEqual(rooms, set(storeys))
            for path, others in python_imports().items():
                for other in others:
                    inside = [
                        each.relative_to(ROOT / folder) for each in (path, other) if ROOT / folder in each.parents
                    ]
                    if len(inside) == 2 and len(inside[0].parts) > 1 and len(inside[1].parts) > 1:
                        own, below = (storeys.index(each.parts[0]) for each in inside)
                        self.assertGreaterEqual(own, below, f"{inside[0]} imports {inside[1]}")

    def test_no_folder_is_a_hall(self):
        folders = [folder for folder in (ROOT, *ROOT.rglob("*")) if folder.is_dir() and folder.name != "__pycache__"]
        for folder in folders:
            files = [path for path in folder.iterdir() if path.suffix == ".py"]
            self.assertLessEqual(len(files), MOST_FILES, folder)
        core = [path for path in (ROOT / "core").iterdir() if path.name not in ("__init__.py", "__pycache__")]
        self.assertLessEqual(len(core), MOST_ROOMS)

    def test_imports_run_downwards_only(self):
        for room, below in MAY_IMPORT.items():
            files = [ROOT / "scripting.py"] if room == "scripting" else sorted((ROOT / room).rglob("*.py"))
            self.assertTrue(files, room)
            for path in files:
                for name in imports(path):
                    if not name.startswith("jointed_crane."):
                        continue
                    other = name.split(".")[1]
                    self.assertIn(other, {room} | below, f"{path.relative_to(ROOT)} imports {name}")

    def test_the_core_uses_mathematics_only(self):
        import sys

        for path in (ROOT / "core").rglob("*.py"):
            for name in imports(path):
                top = name.split(".")[0]
                known = top in sys.stdlib_module_names or top in CORE_MAY_USE or top == "jointed_crane"
                self.assertTrue(known, f"{path.relative_to(ROOT)} imports {name}")

    def test_the_product_does_not_import_its_demo_but_for_the_demo_command(self):
        users = [
            path.name
            for path in ROOT.rglob("*.py")
            if any(name.split(".")[0] == "heron_lock" for name in imports(path))
        ]
        self.assertEqual(users, ["serving.py"])


class ProjectionTests(unittest.TestCase):
    """Where a point of the art is seen is asked of `viewing.projection`; nobody else cuts a world matrix."""

    #: What evaluates makes the matrices, so it may cut them too.
    MAKES = (ROOT / "core" / "geometry", ROOT / "core" / "evaluate", ROOT / "core" / "viewing")
    CUT = re.compile(r"(, )?:[23], (:[23]|3)")

    def by_hand(self, tree):
        for node in ast.walk(tree):
            match node:
                case ast.Subscript(value, cut) if self.CUT.search(ast.unparse(cut)):
                    found = value
                case ast.BinOp(op=ast.MatMult(), left=found, right=ast.List()):
                    pass
                case _:
                    continue
            if "world" in ast.unparse(found):
                yield f"{node.lineno}: {ast.unparse(node)}"

    def test_cuts_are_found(self):
        for text in ("world_at(scene, part)[:3, :3]", "pose.world[row][:, :2, 3]", "pose.world[0] @ [*point, 1.0]"):
            self.assertTrue(list(self.by_hand(ast.parse(text))), text)
        self.assertFalse(list(self.by_hand(ast.parse("pose.world[row, :, begin:end]; matrix[:3, :3]"))))

    def test_no_world_matrix_is_cut_by_hand(self):
        for path in sorted(ROOT.rglob("*.py")):
            if not any(path.is_relative_to(room) for room in self.MAKES):
                self.assertEqual([], list(self.by_hand(ast.parse(path.read_text()))), str(path.relative_to(ROOT)))


class NameTests(unittest.TestCase):
    """One name for one thing in the whole tree."""

    def test_no_two_classes_share_a_name(self):
        found = Counter(
            node.name for path in ROOT.rglob("*.py") for node in read(path) if isinstance(node, ast.ClassDef)
        )
        self.assertEqual([name for name, count in found.items() if count > 1], [])

    def test_no_two_scripts_of_the_bench_share_a_name(self):
        found = Counter(path.name for path in (ROOT / "web" / "bench").rglob("*.js"))
        self.assertEqual([name for name, count in found.items() if count > 1], [])


class ScriptTests(unittest.TestCase):
    """A function of a script that is longer than 80 lines is two ideas."""

    #: A line that opens the body of a function, and how far it is indented; scripts are laid out by a formatter.
    OPENS = re.compile(
        r"^(\s*)(?!.*\bclass\b)(?!(?:if|for|while|switch|try|\}) ?).*(?:function\b.*|=>\s*\(?|\w+\([^;]*\)\s*|\)\s)\{$"
    )

    def test_no_function_is_longer_than_80_lines(self):
        scripts = [path for path in (ROOT / "web").rglob("static/**/*.js") if "vendor" not in path.parts]
        self.assertGreater(len(scripts), 40)
        for path in scripts:
            lines = path.read_text().splitlines()
            for number, line in enumerate(lines):
                opened = self.OPENS.match(line)
                if not opened:
                    continue
                end = opened[1] + "}"
                closes = next((at for at in range(number, len(lines)) if lines[at].startswith(end)), number)
                self.assertLessEqual(closes - number + 1, 80, f"{path.name}:{number + 1} {line.strip()[:60]}")
