"""The JSON addresses under generated requests: whatever fits the published schema, and whatever does not, gets an answer as published."""

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

CHECKS = [not_a_server_error, content_type_conformance, response_schema_conformance, status_code_conformance]


OPERATIONS = [
    "GET /healthz",
    "POST /api/plan",
    "POST /api/consequences",
    "POST /api/resolve",
    "POST /api/read",
    "POST /api/sound",
    "GET /api/jobs",
    "GET /api/coupons",
    "GET /api/recipes",
    "GET /api/runs",
]


@pytest.mark.parametrize("mode", list(schemathesis.GenerationMode))
@pytest.mark.parametrize("operation", OPERATIONS)
def test_every_address_answers_as_published(served, operation, mode):
    method, path = operation.split()
    published = schemathesis.openapi.from_url(f"{served}/api/openapi.json")
    if mode.is_negative and path == "/healthz":
        pytest.skip("nothing is sent")

    @given(case=published[path][method].as_strategy(generation_mode=mode))
    @settings(max_examples=30, suppress_health_check=list(HealthCheck))
    def answers(case):
        case.call_and_validate(checks=CHECKS)

    answers()


def test_no_address_is_left_out(client):
    published = client.get("/api/openapi.json").json()["paths"]
    assert sorted(
        f"{method.upper()} {path}" for path, methods in published.items() for method in methods
    ) == sorted(OPERATIONS)


def test_bodies_are_typed(client):
    """Every body and answer has a schema of named fields with an example; no free bodies."""
    published = client.get("/api/openapi.json").json()
    for path, methods in published["paths"].items():
        for method, described in methods.items():
            answer = described["responses"]["200"]["content"]["application/json"]["schema"]
            assert "$ref" in answer, path
            if method == "post":
                body = described["requestBody"]["content"]["application/json"]
                name = body["schema"]["$ref"].rsplit("/", 1)[-1]
                assert published["components"]["schemas"][name]["properties"], path
                assert "examples" in body or "examples" in published["components"]["schemas"][name], path
    for name, described in published["components"]["schemas"].items():
        for field, kind in described.get("properties", {}).items():
            known = {"$ref", "anyOf", "type", "const", "enum"} & set(kind)
            assert known, (name, field)


def test_the_examples_work(client):
    published = client.get("/api/openapi.json").json()
    for path, methods in published["paths"].items():
        for described in methods.values():
            body = described.get("requestBody", {}).get("content", {}).get("application/json", {})
            shown = [example["value"] for example in body.get("examples", {}).values()]
            if "$ref" in body.get("schema", {}):
                shown += published["components"]["schemas"][body["schema"]["$ref"].rsplit("/", 1)[-1]].get(
                    "examples", []
                )
            for example in shown:
                assert client.post(path, json=example).status_code == 200, path
