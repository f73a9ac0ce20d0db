"""The command line's help, its examples, and the option names of the previous version."""

import argparse
import os
import shlex

import pytest

from copper_sieve.cli.arguments import build_parser


def commands() -> dict[str, argparse.ArgumentParser]:
    parser = build_parser()
    (found,) = (one for one in parser._actions if isinstance(one, argparse._SubParsersAction))
    return dict(found.choices)


@pytest.mark.parametrize("name", sorted(commands()))
def test_help_fits_on_a_screen_and_ends_with_examples(
    name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setitem(os.environ, "COLUMNS", "100")
    parser = commands()[name]
    lines = parser.format_help().splitlines()
    assert len(lines) <= 45
    assert max(map(len, lines)) <= 100
    examples = [line.strip() for line in (parser.epilog or "").splitlines()[1:]]
    assert len(examples) == (0 if name in {"openapi", "shots"} else 2)
    for example in examples:
        words = shlex.split(example)
        while "=" in words[0]:  # environment variables
            words.pop(0)
        assert words[0] in {"sieve", "./sieve"}
        assert build_parser().parse_args(words[1:]).command == name


@pytest.mark.parametrize(
    ("before", "now"),
    [
        ("bake a --detailed b --by-name --same-uvs --uv 1 --reach 2 --ground --alone --thick 3 "
         "--edge 4",
         "bake a --high-poly b --match-by-name --match-by-uvs --uv-set 1 --max-distance 2 "
         "--ground-plane --isolate-parts --max-thickness 3 --edge-radius 4"),
        ("measure a --lamps 0:45 --far --white 2 --paper p --still --out o",
         "measure a --lights 0:45 --distant --white-level 2 --flat-field p --static-camera "
         "--out o"),
        ("derive a --by normal_from_height", "derive a --operation normal_from_height"),
        ("sets p --find wood", "sets p --filter wood"),
        ("deliver p --removes --anew", "deliver p --delete-obsolete --rewrite"),
    ],
)  # fmt: skip
def test_option_names_of_the_previous_version_are_accepted(before: str, now: str) -> None:
    parse = build_parser().parse_args
    assert vars(parse(before.split())) == vars(parse(now.split()))
