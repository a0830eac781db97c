"""The shell, run inside the test."""

import json

import pytest

from yardtoll.cli import main


@pytest.fixture
def run(capsys):
    def go(*arguments):
        with pytest.raises(SystemExit) as stop:
            main([str(a) for a in arguments])
        said = capsys.readouterr()
        return stop.value.code or 0, said.out, said.err

    return go


@pytest.fixture
def discharge(run):
    def go(*arguments):
        code, out, err = run("compute", "discharge", *arguments, "--json")
        assert (code, err) == (0, "")

        def refuse(constant):
            raise AssertionError(f"JSON is not strict: {constant}")

        return json.loads(out, parse_constant=refuse)

    return go
