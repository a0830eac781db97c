"""One reader, attacked with inputs made from those that reached new lines of it (libFuzzer).

Usage: guided.py FOLDER READER CORPUS RUNS SEED, with Atheris on the path; see script/hardness.
"""

import sys
from pathlib import Path

import atheris  # type: ignore[import-not-found]

with atheris.instrument_imports(include=["yardtoll", "tomllib"]):
    from tests.hardness.fuzz import READERS


def main() -> None:
    """Begin with the sound inputs, keep in the corpus whatever reached something new."""
    folder, reader, corpus, runs, seed = sys.argv[1:]
    attacked = READERS[reader]
    for number, sound in enumerate(attacked.sound()):
        (Path(corpus) / f"sound-{number}").write_bytes(sound)

    def once(data: bytes) -> None:
        wrong = attacked.wrong_with(data, Path(folder))
        if wrong:
            raise AssertionError(f"{wrong} of {data[:200]!r}")

    options = [
        f"-runs={runs}",
        f"-seed={seed}",
        "-max_len=6000",
        "-len_control=0",
        f"-artifact_prefix={folder}/",
    ]
    atheris.Setup([sys.argv[0], *options, corpus], once)
    atheris.Fuzz()


if __name__ == "__main__":
    main()
