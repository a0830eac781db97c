"""A reviewer's own profiles: a bad file is named and left out; every other instrument works."""

import pytest

from yardtoll.bench.errors import ProfileError
from yardtoll.bench.profiles import files
from yardtoll.bench.profiles.files import known_profiles, profile_named


@pytest.fixture
def folder(tmp_path, monkeypatch):
    monkeypatch.setattr(files, "user_profile_folder", lambda: tmp_path)
    return tmp_path


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"\xff\xfe\x00n", "it is not text in UTF-8"),
        (b"name = ", "is not TOML"),
        (b"a = " + b"[" * 5000, "is not TOML"),
        (b'name = "X"\nprotocol = "telepathy"', "protocol must be one of scpi"),
        (b'name = "X"\n' + b"y" * 500 + b" = 1", "extra"),
    ],
)
def test_a_bad_file_is_named_and_the_others_work(folder, content, said):
    (folder / "mine.toml").write_bytes(content)
    found, problems = known_profiles()
    assert "buffered_meter" in found and "mine" not in found
    assert len(problems) == 1 and said.lower() in problems[0].lower() and "mine.toml" in problems[0]
    assert len(problems[0]) < 400 and "\n" not in problems[0]
    assert profile_named("buffered_meter").name
    with pytest.raises(ProfileError):
        profile_named("mine")
