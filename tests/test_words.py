"""One word for one thing: what went does not come back, in templates, scripts and sentences."""

import ast
import re
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1] / "jointed_crane"
#: Words that went, each as it would stand in what people read.
WENT = (
    r"[Ss]tand on the", r"\bStand\b", r"(?<!\.)\b[Ss]lips?\b", r"[Cc]ollapse", r"[Ee]xpand\b", r"\bremove[sd]?\b",
    r"\bRemove",
    r"[Ii]ts limit\b", r"past a limit", r"\blimits of\b", r"[Zz]ero stays", r"[Tt]he zero\b", r"’s zero", r"as you go",
    r"[Dd]rop what waits", r"Key what waits", r"Drop it\b", r"Make this pose the rest", r"(Copy|Paste) pose",
    r"upright axis", r"[Ff]ollow each other", r"[Dd]oes the loop close",
    r"Reach with it", r"Name (this|a span of) frame",
    r"Look closer", r"See (more|all) of time", r"Common height", r"Own lanes", r"True values", r"[Ww]hole turns and",
    r"Between the keys before", r"Begins at, turns", r"helper above\b", r"Found nothing:", r"beyond all time",
    r"\b1 parts\b", r"Match here", r"\bdrop them\b", r"make its pose the rest", r"link away",
)  # fmt: skip
#: What drawings and styles call rules is theirs.
RULES = re.compile(r"(?<!style )\brules?\b(?! of (a style|$)| into the drawing)")
TAG = re.compile(r"\{[%#].*?[%#]\}|<[^>]*>", re.S)
SAID = re.compile(r'(?:title|aria-label|placeholder)="([^"]*)"')
LITERAL = re.compile(r'"((?:[^"\\\n]|\\.)*)"|`((?:[^`\\]|\\.)*)`')


def templates():
    for path in ROOT.rglob("*.html"):
        text = path.read_text()
        yield from ((path, words) for words in SAID.findall(text))
        yield path, TAG.sub(" ", text)


def scripts():
    for path in ROOT.rglob("*.js"):
        if "vendor" in path.parts:
            continue
        code = "\n".join(
            line for line in path.read_text().split("\n") if not line.strip().startswith(("//", "*", "/*"))
        )
        for found in LITERAL.finditer(code):
            words = found[1] or found[2] or ""
            if " " in words or words[:1].isupper():  # what people read, not names of things in code
                yield path, words


def sentences():
    for path in ROOT.rglob("*.py"):
        tree = ast.parse(path.read_text())
        documents = {
            id(node.body[0].value)
            for node in ast.walk(tree)
            if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
            and node.body
            and isinstance(node.body[0], ast.Expr)
        }
        for node in ast.walk(tree):
            if (
                isinstance(node, ast.Constant)
                and isinstance(node.value, str)
                and id(node) not in documents
                and " " in node.value
            ):
                yield path, node.value


class WordsTests(unittest.TestCase):
    def test_what_went_is_nowhere(self):
        found = [
            f"{path.relative_to(ROOT)}: {words.strip()[:90]!r} has {word!r}"
            for path, words in (*templates(), *scripts(), *sentences())
            for word in WENT
            if re.search(word, words)
        ]
        self.assertEqual(found, [])

    def test_nothing_that_people_read_calls_a_constraint_a_rule(self):
        found = [(str(path.relative_to(ROOT)), words[:90]) for path, words in sentences() if RULES.search(words)]
        self.assertEqual(found, [])
