"""Whatever is sent, the answer is what the description says or a sentence; nothing is ever a 500."""

import json
import re
import tempfile
from dataclasses import fields
from pathlib import Path

import schemathesis
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st
from openapi_spec_validator import validate

from jointed_crane.core.basics.wording import counted
from jointed_crane.core.edits.every import EDITS
from jointed_crane.core.edits.joints.eyelets import AddEyelet
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.edits.scene.parts import AddParts
from jointed_crane.core.model.forms import Polygon, Text
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.lettering import with_outlines
from jointed_crane.web import create_app
from tests.demo_library import WORKERS
from tests.strategies import examples, random_scene, some
from tests.web.test_api import ApiTestCase, AppTestCase

#: Values that were found to break one reader or another.
ODD = (
    *(None, True, "", "x", "1e999", "NaN", [], {}, [[]], {"x": 1}, "\ud800", "\uffff", "\x00", "{name:>999999999}"),
    *(0, -1, 1e-310, 1e15, 1e308, 10**25, -0.0, [0, 0], [1e9, 1e9], ["a"], [None], "rest", "#ffffff", "../../x"),
)


class ContractTestCase(AppTestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.begin()

    @classmethod
    def begin(cls):
        """A scene with one of everything, made anew whenever random edits have left little of it."""
        scene = random_scene(7)
        scene = AddShape("shape", Polygon((9.0, 9.0), 30.0)).apply(scene)
        (text,) = with_outlines([AddShape("text", Text("Lock"))])
        scene = AddEyelet("p1", "e1", (3.0, 4.0), name="eyelet").apply(text.apply(scene))
        cls.number = getattr(cls, "number", 0) + 1
        cls.scene_id = f"s{cls.number}"
        parts = AddParts(scene.parts).apply(Scene(cls.scene_id, f"Scene {cls.number}", length=48)).parts
        cls.library.scenes.create(Scene(cls.scene_id, f"Scene {cls.number}", length=48, parts=parts))

    def kept(self):
        try:
            kept = self.library.scenes.load(self.scene_id)
        except ValueError:
            kept = None
        if kept is None or len(kept.scene.parts) < 5:
            self.begin()
            kept = self.library.scenes.load(self.scene_id)
        return kept

    def assert_sound(self, status, content_type, data, said):
        self.assertLess(status, 500, f"{said}: {data[:300]!r}")
        if status >= 400:
            self.assertEqual(content_type, "application/problem+json", said)
            self.assertRegex(json.loads(data)["detail"], r"\w.*[.!?]$")


class DescriptionTests(ContractTestCase):
    def test_the_description_is_valid_and_names_every_body_query_and_answer(self):
        document = self.client.get("/api/openapi.json").get_json()
        validate(document)
        for path, methods in document["paths"].items():
            for method, operation in methods.items():
                with self.subTest(f"{method} {path}"):
                    (answer,) = (found for status, found in operation["responses"].items() if status != "default")
                    self.assertTrue(answer["content"])
                    self.assertEqual(method == "post", "requestBody" in operation)
        described = set(document["paths"])
        served = {
            re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", rule.rule)
            for rule in self.app.url_map.iter_rules()
            if rule.rule.startswith("/api/")
        }
        self.assertEqual(served - described, {"/api/openapi.json"})
        schemas = document["components"]["schemas"]
        kinds = [choice["$ref"].rsplit("/", 1)[1] for choice in schemas["Edit"]["oneOf"]]
        self.assertEqual(sorted(kinds), sorted(edit.__name__ for edit in EDITS.values()))
        for kind, edit in EDITS.items():
            described = schemas[edit.__name__]["properties"]
            self.assertEqual(described["edit"]["const"], kind)
            self.assertEqual(described.keys() - {"edit"}, {field.name for field in fields(edit)})

    def test_calls_made_from_the_description_get_what_it_says_or_a_sentence(self):
        schema = schemathesis.openapi.from_wsgi("/api/openapi.json", self.app)
        for operation in some([result.ok() for result in schema.get_all_operations()]):

            @given(case=operation.as_strategy(), is_real=st.booleans())
            @settings(examples(8), suppress_health_check=list(HealthCheck))
            def call(case, is_real):
                kept = self.kept()
                if is_real and "scene_id" in (case.path_parameters or {}):
                    case.path_parameters["scene_id"] = self.scene_id
                if is_real and isinstance(case.body, dict) and "version" in case.body:
                    case.body["version"] = kept.version
                assume("delete" not in case.path or not is_real)
                response = case.call()
                content_type = (response.headers.get("content-type") or [""])[0]
                self.assert_sound(response.status_code, content_type, response.content, f"{case.method} {case.path}")

            with self.subTest(operation.label):
                call()


class EditFuzzTests(ContractTestCase):
    """Edits from the list of edits, with right values, odd values and values of the wrong place."""

    @given(st.data())
    @settings(examples(120), suppress_health_check=list(HealthCheck))
    def test_edits_of_every_kind_with_odd_values(self, data):
        self.begin()
        kept = self.library.scenes.load(self.scene_id)
        schemas = self.schemas()
        kind = data.draw(st.sampled_from(sorted(EDITS)))
        schema = schemas[EDITS[kind].__name__]
        edit = {"edit": kind}
        for name, field in schema["properties"].items():
            if name == "edit" or (name not in schema["required"] and data.draw(st.booleans())):
                continue
            edit[name] = data.draw(self.value(name, field, schemas, kept.scene))
        path = data.draw(st.sampled_from(["edits", "preview"]))
        frame = data.draw(st.sampled_from([None, 0, 7.5, 40]))
        body = json.dumps({"version": kept.version, "frame": frame, "edits": [edit]})
        answer = self.client.post(f"/api/scenes/{self.scene_id}/{path}", data=body, content_type="application/json")
        self.assert_sound(answer.status_code, answer.content_type, answer.data, body[:600])
        if answer.status_code == 200:
            self.assertNotRegex(answer.get_data(as_text=True), r"[:,\[]\s*-?(?:NaN|Infinity)")

    @classmethod
    def schemas(cls):
        if not hasattr(cls, "_schemas"):
            cls._schemas = cls.client.get("/api/openapi.json").get_json()["components"]["schemas"]
        return cls._schemas

    def value(self, name, field, schemas, scene):
        """A value for a field: often one that fits, often one that is odd."""
        fitting = self.fitting(name, field, schemas, scene)
        return st.one_of(fitting, fitting, fitting, st.sampled_from(ODD))

    def fitting(self, name, field, schemas, scene):
        ids = [part.id for part in scene.parts]
        if name in ("part", "parent", "above", "source"):
            return st.sampled_from(ids)
        if name == "parts" and field.get("items", {}).get("type") == "string":
            return st.lists(st.sampled_from(ids), max_size=4)
        if name in ("drawing", "eyelet") and "$ref" not in field:
            things = [thing.id for part in scene.parts for thing in (*part.drawings, *part.eyelets)]
            return st.sampled_from(things)
        if name == "channel":
            return st.sampled_from(["turn.z", "scale.x", "drawing", "shown", "order", "none"])
        if "$ref" in field:
            return self.thing(schemas[field["$ref"].rsplit("/", 1)[1]], schemas, scene)
        if "const" in field:
            return st.just(field["const"])
        if "enum" in field:
            return st.sampled_from(field["enum"])
        for choices in ("anyOf", "oneOf"):
            if choices in field:
                return st.one_of([self.fitting(name, choice, schemas, scene) for choice in field[choices]])
        kind = field.get("type")
        if kind == "array":
            inside = field.get("prefixItems")
            if inside:
                return st.tuples(*(self.value(name, item, schemas, scene) for item in inside)).map(list)
            return st.lists(self.value(name, field.get("items", {}), schemas, scene), max_size=4)
        if kind == "object" and "properties" not in field:
            inner = field.get("additionalProperties")
            inner = inner if isinstance(inner, dict) else {"type": "number"}
            keys = st.sampled_from(["turn.z", "move.x", "scale.y", "drawing", "Part 1", "none"])
            return st.dictionaries(keys, self.value(name, inner, schemas, scene), max_size=3)
        if kind == "object":
            return self.thing(field, schemas, scene)
        simple = {
            "number": st.one_of(st.floats(-300, 300), st.sampled_from([0.0, 1e7, -1e7, 1e-12])),
            "integer": st.integers(-3, 300),
            "boolean": st.booleans(),
            "null": st.none(),
        }
        return simple.get(kind, st.text(max_size=12))

    def thing(self, schema, schemas, scene):
        required, optional = {}, {}
        for name, field in schema.get("properties", {}).items():
            target = required if name in schema.get("required", ()) else optional
            target[name] = self.value(name, field, schemas, scene)
        return st.fixed_dictionaries(required, optional=optional)


class WrongInputTests(ApiTestCase):
    """What fuzzing found, one by one."""

    def test_each_gets_a_sentence(self):
        kept = self.with_heron()
        part = kept.scene.parts[0].id
        numbers = ["1e999", "10" + "0" * 400, "-1e400", "1e16"]
        bodies = [
            f'{{"version": {kept.version}, "frame": {number}, "edits": [{{"edit": "reset"}}]}}' for number in numbers
        ]
        edits = [
            {"edit": ["reset"]},
            {"edit": {"edit": "reset"}},
            {"edit": "scale_toward", "parts": [], "start": [0, 0], "now": [1, 1]},
            {"edit": "turn_about", "parts": [], "degrees": 3, "about": "last picked"},
            {"edit": "turn_about", "parts": [], "degrees": 3, "about": "shared centre"},
            {"edit": "add_shape", "id": "x", "shape": {"form": "polygon", "centre": [0, 0], "radius": 5, "corners": 0}},
            {"edit": "rename_part", "part": part, "name": "\ud800"},
            {"edit": "rename_part", "part": part, "name": "\uffff"},
            {"edit": "rename_part", "part": "\x00", "name": "x"},
            {"edit": "name_by_pattern", "parts": [part], "pattern": "{name:>1000000000}"},
            {"edit": "name_by_pattern", "parts": [part], "pattern": "{name!r}"},
            {"edit": "turn_by", "parts": [part], "degrees": "5"},
            {"edit": "turn_by", "parts": [part], "degrees": 5, "step": 1e-300},
            {"edit": "turn_by", "parts": [part], "degrees": 5, "step": -15},
            {"edit": "add_parts", "parts": [{"id": "n", "name": "n", "colour": "red"}]},
            {"edit": "add_parts", "parts": [{"id": "n", "name": "n", "drawings": [
                {"id": "d", "name": "d", "art": "a", "box": [0, 0, 1, 1], "bounds": [0, 0, 1, 1], "outline": [[]]}]}]},
        ]  # fmt: skip
        bodies += [json.dumps({"version": kept.version, "edits": [edit]}) for edit in edits]
        for body in bodies:
            for path in ("edits", "preview"):
                with self.subTest(body[:120], path=path):
                    answer = self.client.post(
                        f"{self.path}/{path}",
                        data=body,
                        content_type="application/json",
                        headers={"X-CSRFToken": self.token},
                    )
                    self.assert_problem(answer, 422, r"\.$")
        self.assertEqual(self.library.scenes.load(kept.scene.id).version, kept.version)

    def test_a_name_beyond_latin_1_goes_out_as_a_file(self):
        kept = self.with_heron()
        self.post(f"{self.path}/rename", {"name": "水门 Łódź"})
        for path in (f"{self.path}/send/svg", f"{self.path}/send/zip", f"{self.path.removeprefix('/api')}/map.svg"):
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, 200)
            self.assertRegex(answer.headers["Content-Disposition"], r'filename="[a-z0-9-]+\.(svg|zip)"')
        self.assertEqual(self.library.scenes.load(kept.scene.id).scene.name, "水门 Łódź")

    def test_a_session_key_that_was_never_written_is_made_anew(self):
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "session.key").touch()
            first = create_app(Path(folder), workers=WORKERS)
            self.assertEqual(len(first.config["SECRET_KEY"]), 64)
            self.assertEqual(create_app(Path(folder), workers=WORKERS).config["SECRET_KEY"], first.config["SECRET_KEY"])
        other = self.client.application.config["SESSION_COOKIE_NAME"]
        self.assertNotEqual(first.config["SESSION_COOKIE_NAME"], other)

    def test_counts_are_said_as_people_say_them(self):
        self.assertEqual(counted(1, "key"), "1 key")
