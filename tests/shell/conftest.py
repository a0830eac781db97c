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


@pytest.fixture
def shell(run):
    """Any kind of ``compute``, as what its JSON holds."""

    def go(kind, *arguments):
        code, out, err = run("compute", kind, *arguments, "--json")
        assert (code, err) == (0, "")
        return json.loads(out)

    return go


@pytest.fixture
def refused(run):
    """The one line said of data or a value that cannot be used."""

    def go(kind, *arguments):
        code, out, err = run("compute", kind, *arguments, "--json")
        assert code == 1 and out == "" and err.count("\n") == 1 and "Traceback" not in err
        return err

    return go


@pytest.fixture
def wrong_usage(run):
    """What is said of invalid arguments."""

    def go(kind, *arguments):
        code, out, err = run("compute", kind, *arguments, "--json")
        assert code == 2 and out == ""
        return err

    return go
