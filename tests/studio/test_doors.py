"""What comes in from outside: hostile numbers, texts and shapes get a clear answer, and never an error of ours."""

from __future__ import annotations

import json
import math
import os
from typing import Any

from django.contrib.auth.models import User
from django.test import TestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as GeneratedCase

from handful.studio.api import api
from handful.studio.shots.models import Shot
from tests.studio.base import client_of, person, shot_of, small_recipe

BODIES = {
    b'{"name": "a\\u0000b", "password": "x"}': "NUL",
    b'{"name": "\\ud800", "password": "x"}': "half of a pair",
    b'{"name": NaN, "password": "x"}': "no number",
    b'{"name": -Infinity, "password": "x"}': "no number",
    b'{"name": 1e400, "password": "x"}': "too large",
    b'{"name": ' + b"9" * 401 + b', "password": "x"}': "digits",
    b"[" * 100_000: "nested too deep",
    b'{"name": ': "not JSON",
    b"\xff\xfe\x00": "not JSON",
}


class Bodies(TestCase):
    def test_each_says_what_is_wrong(self) -> None:
        client = client_of()
        for body, word in BODIES.items():
            with self.subTest(word=word):
                answer = client.post(
                    "/api/v1/people/sign-in", body, content_type="application/json"
                )
                self.assertEqual(answer.status_code, 422)
                self.assertIn(word, answer.json()["problems"][0]["says"])

    def test_a_pair_is_a_sign(self) -> None:
        """What JSON writes as two halves is one sign, and a text may hold it."""
        client = client_of(person("Ada"))
        body = json.dumps(small_recipe(name="Spark \U0001f525"))
        self.assertIn("\\ud83d", body)
        answer = client.post(
            "/api/v1/shots", b'{"recipe": ' + body.encode() + b"}", content_type="application/json"
        )
        self.assertEqual(answer.status_code, 201)
        self.assertEqual(Shot.objects.get().name, "Spark \U0001f525")

    def test_addresses(self) -> None:
        client = client_of(person("Ada"))
        for path in ("starters/a%00b", "timecodes?first=%00&count=1&rate=25"):
            self.assertEqual(client.get(f"/api/v1/{path}").status_code, 422)
        far = "9" * 400
        shot = shot_of(person("Grace"))
        for path in (
            f"timecodes?first={far}&count=1&rate=25",
            f"shots/{shot.id}/revisions/{far}",
            f"renders/{shot.id}/{far}.file",
            "shots?x=%ff",
            f"preview/thumbnails/{shot.id}.jpg?frame={far}",
        ):
            self.assertIn(client.get(f"/api/v1/{path}").status_code, (200, 404, 422), path)

    def test_a_curve_never_answers_with_what_is_no_number(self) -> None:
        client = client_of()
        for points, at in (
            ([[0, 0], [1, 1e308]], [0.5]), ([[0, 0], [0, 1]], [1e308]), ([[-1e6, 1e6], [1e6, -1e6]], [0]),
            ([[0, 0], [1e-300, 1e6]], [0.5]),
        ):  # fmt: skip
            status, answer = client.call("POST", "/curve", {"points": points, "at": at})
            self.assertIn(status, (200, 422))
            if status == 200:
                self.assertTrue(all(math.isfinite(value) for value in answer), answer)


HOSTILE_TEXT = st.sampled_from(
    ["", "\0", "a" * 5000, "../../etc/passwd", "'; --", "\ud800", "\u202e", "%00", "NaN", "🔥"]
) | st.text(max_size=20)
HOSTILE_NUMBER = (
    st.sampled_from(
        [
            0,
            -1,
            2**31,
            -(2**31) - 1,
            2**63,
            10**400,
            1e308,
            -1e308,
            1e-320,
            float("nan"),
            float("inf"),
        ]
    )
    | st.floats(-1e4, 1e4)
    | st.integers(-100, 2000)
)
ANYTHING = st.recursive(
    st.none() | st.booleans() | HOSTILE_NUMBER | HOSTILE_TEXT,
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(HOSTILE_TEXT, inner, max_size=4),
    max_leaves=12,
)


class Schema:
    """Builds what an OpenAPI schema describes, with something else in it here and there."""

    def __init__(self, whole: dict[str, Any]) -> None:
        self._parts = whole["components"]["schemas"]

    def value(self, schema: dict[str, Any], depth: int = 0) -> st.SearchStrategy[Any]:
        """What fits a schema, and at times what does not."""
        return st.integers(0, 11).flatmap(
            lambda chance: ANYTHING if chance == 0 else self._fitting(schema, depth)
        )

    def _fitting(self, schema: dict[str, Any], depth: int) -> st.SearchStrategy[Any]:
        if "$ref" in schema:
            return self._fitting(self._parts[schema["$ref"].rsplit("/", 1)[1]], depth)
        for of in ("anyOf", "oneOf", "allOf"):
            if of in schema:
                return st.sampled_from(schema[of]).flatmap(lambda one: self.value(one, depth + 1))
        if "enum" in schema:
            return st.sampled_from(schema["enum"])
        if "const" in schema:
            return st.just(schema["const"])
        match schema.get("type"):
            case "object" if "properties" in schema and depth < 8:
                required = set(schema.get("required", ()))
                known = {
                    name: self.value(of, depth + 1) for name, of in schema["properties"].items()
                }
                return st.fixed_dictionaries(
                    {name: of for name, of in known.items() if name in required},
                    optional={name: of for name, of in known.items() if name not in required},
                )
            case "object":
                return st.just(small_recipe()) | st.dictionaries(HOSTILE_TEXT, ANYTHING, max_size=3)
            case "array" if depth < 8:
                return st.lists(self.value(schema.get("items", {}), depth + 1), max_size=3)
            case "integer" | "number":
                return st.integers(0, 40) | HOSTILE_NUMBER
            case "boolean":
                return st.booleans()
            case "string" if schema.get("format") == "uuid":
                return st.uuids().map(str)
            case "string":
                return HOSTILE_TEXT
        return ANYTHING


CASES = int(os.environ.get("HANDFUL_CASES", "400"))
"""Requests that are built; `./handful bench faults` builds many more."""

WHOLE = api.get_openapi_schema()
OPERATIONS = sorted((method, path) for path, ways in WHOLE["paths"].items() for method in ways)


@st.composite
def requests(draw: st.DrawFn) -> tuple[str, str, dict[str, Any], bytes]:
    """A request for some operation of the API: method, path, query and body."""
    method, path = draw(st.sampled_from(OPERATIONS))
    schema = Schema(WHOLE)
    about = WHOLE["paths"][path][method]
    query: dict[str, Any] = {}
    for one in about.get("parameters", ()):
        value = draw(schema.value(one["schema"]))
        if one["in"] == "path":
            text = str(value).replace("/", "") or "x"
            path = path.replace("{" + one["name"] + "}", text)
        elif one["in"] == "query":
            query[one["name"]] = str(value).encode("utf-8", "replace").decode()
    body = b""
    content = about.get("requestBody", {}).get("content", {}).get("application/json")
    if content is not None:
        body = json.dumps(draw(schema.value(content["schema"]))).encode()
    return method, path, query, body


class Generated(GeneratedCase):
    """Requests built from the OpenAPI schema, hostile ones among them."""

    ada: User

    @classmethod
    def setUpTestData(cls) -> None:
        cls.ada = person("Ada")
        shot_of(cls.ada)

    @settings(max_examples=CASES, deadline=None, suppress_health_check=list(HealthCheck))
    @given(requests())
    def test_no_error_of_ours(self, request: tuple[str, str, dict[str, Any], bytes]) -> None:
        """Never a 500, and every answer that is JSON is JSON by its standard."""
        method, path, query, body = request
        client = client_of(self.ada)
        client.raise_request_exception = False
        response = client.generic(
            method.upper(),
            path.encode("utf-8", "replace").decode(),
            body,
            content_type="application/json",
            query_params=query,
        )
        self.assertLess(response.status_code, 500, f"{method} {path} {query} {body[:400]!r}")
        if response.headers.get("Content-Type", "").startswith("application/json"):
            json.loads(response.content, parse_constant=self.fail)
