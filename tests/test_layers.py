import ast
import re
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1] / "jointed_crane"
#: What each room may import of the others; imports run downwards only.
MAY_IMPORT = {
    "core": set(),
    "formats": {"core"},
    "reading": {"core", "formats"},
    "store": {"core", "formats"},
    "web": {"core", "formats", "reading", "store"},
    "cli": {"core", "formats", "reading", "store", "web"},
}
CORE_MAY_USE = {"numpy", "scipy", "shapely", "contourpy"}


def imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{path} imports relatively"
            found.add(node.module)
    return found


class LayerTests(unittest.TestCase):
    def test_imports_run_downwards_only(self):
        for room, below in MAY_IMPORT.items():
            files = [ROOT / "cli.py"] if room == "cli" else sorted((ROOT / room).rglob("*.py"))
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
            path.name for path in ROOT.rglob("*.py") if any(name.split(".")[0] == "demo" for name in imports(path))
        ]
        self.assertEqual(users, ["cli.py"])


class ScriptTests(unittest.TestCase):
    """A function of a script that is longer than 120 lines is two ideas."""

    #: A line that opens the body of a function, and how far it is indented; scripts are laid out by a formatter.
    OPENS = re.compile(
        r"^(\s*)(?!.*\bclass\b)(?!(?:if|for|while|switch|try|\}) ?).*(?:function\b.*|=>\s*|\w+\([^;]*\)\s*)\{$"
    )

    def test_no_function_is_longer_than_120_lines(self):
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
                self.assertLessEqual(closes - number + 1, 120, f"{path.name}:{number + 1} {line.strip()[:60]}")
