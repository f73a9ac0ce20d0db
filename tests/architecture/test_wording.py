"""No text, docstring, comment or page uses the phrases that this project has replaced.

Texts are the strings of the package and of the front end, the notes of targets, the documentation,
and docstrings and comments of code and benchmarks. A legitimate use stays if its line has the
comment `wording: ok`, or if it is listed in `_EXCEPTIONS` with its reason.
"""

from __future__ import annotations

import ast
import io
import json
import re
import tokenize
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
_PHRASES = re.compile(
    r"thrown? away|threw away|br(?:ing|ings|ought) (?:it |them |all )?back"
    r"|\bt(?:ake|akes|aken|aking|ook) (?:it |them |files |pictures )?in\b(?! (?:account|to))"
    r"|\bc(?:ame|omes?) in\b(?! handy)|\bt(?:ake|akes|aken|aking|ook) (?:\S+ )?(?:out|off)\b"
    r"|\btells?\b(?! the)|\btold\b|\bsaid\b|\bsays\b|\bsay\b(?! ?\()"
    r"|\banew\b|\balike\b|\bbeside\b|\bmend(?:s|ed|ing)?\b|\bmeanwhile\b|\bwhatever\b"
    r"|(?<![Tt]here )\b(?:is|are|was|were) no (?!longer\b|more\b|such\b|need\b)[a-z]+"
    r"|\bas (?:it|they) (?:is|was|are|were|came|come|lies)\b|\bas usual\b"
    r"|\bby (?:itself|themselves)\b|\bso far\b|\bfrom now on\b|\bat hand\b|\bat once\b"
    r"|\blook(?:s|ed|ing)? (?:it |them |at it |\S+ )?over\b|\bworth a look\b|\bthe eye\b"
    r"|\b(?:lie|lies|lay|lying)\b(?! (?:in \[|between))|\bon purpose\b|\bin the way\b"
    r"|\bgoes? (?:on|to it|there)\b|\bwent through\b|\bwho is\b|\bof (?:its|their) own\b"
    r"|\bwould come out\b|\bcomes? out\b|\bcut short\b|\bno whole\b|\bin step\b|\bno room\b"
    r"|\binside out\b|\bway up\b|\bthe hand\b|\bby hand\b|\bsurroundings?\b|\bdoubt\b"
    r"|\bdetailed model\b|\bborders? (?:end|meet)s?\b|\bnothing (?:came|lies|lay|seems)\b"
    r"|\bwhat (?:is|was|it|they|came|lies|stays|you|a|the)\b|\bshall\b|\bupon\b",
    re.IGNORECASE,
)
_PROSE = re.compile(r"[A-Za-z]{2,}[ ,;:][ ]?[a-z]{2,}")
_SQL = re.compile(
    r"\b(select|insert into|update|delete from|where|create table|alter table)\b", re.I
)
# The changelog lists former names next to present ones.
_EXCEPTIONS = {
    "CHANGELOG.md": ("Map types:", "Stored fields of sets", "Database tables and columns")
}
_WEB_STRING = re.compile(
    r'"((?:[^"\\\n]|\\.)*)"|`((?:[^`\\]|\\.)*)`|>([^<>{}=;()]*[A-Za-z][^<>{}=;()]*)<'
)
_WEB_COMMENT = re.compile(r"//[^\n]*|/\*.*?\*/", re.DOTALL)


def found_in(text: str) -> str | None:
    """Return the replaced phrase in a text, if any."""
    sentence = " ".join(text.split())
    if not _PROSE.search(sentence) or _SQL.search(sentence):
        return None
    match = _PHRASES.search(sentence)
    return match[0] if match else None


def python_texts(source: str) -> Iterator[tuple[int, str]]:
    tree = ast.parse(source)
    inside = {id(v) for n in ast.walk(tree) if isinstance(n, ast.JoinedStr) for v in n.values}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            parts = (v.value if isinstance(v, ast.Constant) else "{}" for v in node.values)
            yield node.lineno, "".join(map(str, parts))
        elif (
            isinstance(node, ast.Constant)
            and isinstance(node.value, str)
            and id(node) not in inside
        ):
            yield node.lineno, node.value
    for token in tokenize.generate_tokens(io.StringIO(source).readline):
        if token.type == tokenize.COMMENT:
            yield token.start[0], token.string


def web_texts(source: str) -> Iterator[tuple[int, str]]:
    for match in _WEB_COMMENT.finditer(source):
        yield source.count("\n", 0, match.start()) + 1, match[0]
    bare = _WEB_COMMENT.sub(lambda m: re.sub(r"[^\n]", " ", m[0]), source)
    for match in _WEB_STRING.finditer(bare):
        text = next(group for group in match.groups() if group is not None)
        yield bare.count("\n", 0, match.start()) + 1, re.sub(r"\$\{[^}]*\}", "{}", text)


def texts() -> Iterator[tuple[Path, int, str]]:
    for path in [*ROOT.glob("src/**/*.py"), *ROOT.glob("benchmarks/*.py")]:
        yield from ((path, line, text) for line, text in python_texts(path.read_text("utf-8")))
    for path in ROOT.glob("web/src/**/*.ts*"):
        if not re.search(r"\.test\.|schema\.d", path.name):
            yield from ((path, line, text) for line, text in web_texts(path.read_text("utf-8")))
    for path in ROOT.glob("src/**/targets/builtin/*.json"):
        preset = json.loads(path.read_text("utf-8"))
        yield from ((path, 1, preset[key]) for key in ("title", "note"))
    for path in [*ROOT.glob("*.md"), *ROOT.glob("docs/**/*.md")]:
        lines = path.read_text("utf-8").splitlines()
        exceptions = _EXCEPTIONS.get(path.name, ())
        yield from (
            (path, n, line)
            for n, line in enumerate(lines, 1)
            if not line.startswith(exceptions or "\0")
        )


def test_texts_use_present_wording() -> None:
    found = []
    sources: dict[Path, list[str]] = {}
    for path, line, text in texts():
        phrase = found_in(text)
        if phrase is None:
            continue
        lines = sources.setdefault(path, path.read_text("utf-8").splitlines())
        if "wording: ok" not in lines[line - 1]:
            found.append(f"{path.relative_to(ROOT)}:{line}: {phrase!r} in {text[:80]!r}")
    assert found == []


@pytest.mark.parametrize(
    "text",
    ["It is told by its name.", "Files that came in lie here.", "Take in a picture", "by the hand"],
)
def test_a_replaced_phrase_is_found(text: str) -> None:
    assert found_in(text)
    assert [one for _, one in python_texts(f'x = "{text}"  # a comment') if found_in(one)] == [text]
    assert [one for _, one in web_texts(f'const x = "{text}";') if found_in(one)] == [text]
