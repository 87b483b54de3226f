"""The texts about the program: what they name is there, what they promise is kept."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import pytest

from cryonome.version import VERSION

ROOT = Path(__file__).parents[1]
TEXTS = [
    p
    for p in (ROOT / name for name in subprocess.run(["git", "ls-files", "*.md"], cwd=ROOT, capture_output=True, text=True, check=False).stdout.split())
    if p.is_file() and not p.is_symlink()
] or sorted(ROOT.glob("*.md"))  # fmt: skip
ARCHITECTURE = ROOT / "docs" / "architecture.md"


@pytest.mark.parametrize("text", TEXTS, ids=lambda p: str(p.relative_to(ROOT)))
def test_every_link_and_picture_leads_somewhere(text):
    for target in re.findall(r"\]\(([^)#\s]+)(?:#[^)]*)?\)", text.read_text(encoding="utf-8")):
        if not target.startswith(("http:", "https:")):
            assert (text.parent / target).exists(), f"{text.name}: {target}"


def test_the_house_is_told_on_a_few_pages_and_what_they_name_is_there():
    text = ARCHITECTURE.read_text(encoding="utf-8")
    assert text.count("\n") <= 200
    package = ROOT / "src" / "cryonome"
    for name in set(re.findall(r"`([\w/]+(?:\.\w+)?)`", text)):
        if "/" not in name and not name.endswith((".py", ".csv", ".md")):
            continue
        places = [
            ROOT / name,
            package / name,
            *package.rglob(name.rstrip("/")),
            *package.glob(f"{name.rsplit('.', 1)[0]}.py"),
        ]
        inner = package / f"{name.rsplit('/', 1)[0]}"
        assert any(p.exists() for p in places) or (inner / f"{name.rsplit('/', 1)[1].split('.')[0]}.py").exists(), name


def test_every_decision_stands_in_the_list():
    text = ARCHITECTURE.read_text(encoding="utf-8")
    for page in (p for p in (ROOT / "docs" / "decisions").glob("*.md") if p.name != "index.md"):
        assert f"(decisions/{page.name})" in text
        told = page.read_text(encoding="utf-8")
        assert "**What.**" in told
        assert "## What else was considered" in told


def test_every_package_of_the_house_is_told():
    text = ARCHITECTURE.read_text(encoding="utf-8")
    for folder in (ROOT / "src" / "cryonome").iterdir():
        if folder.is_dir() and (folder / "__init__.py").exists():
            assert folder.name in text, folder.name


def test_the_changelog_begins_with_this_version():
    heads = re.findall(
        r"^## (\S+), \d{4}-\d\d-\d\d$", (ROOT / "CHANGELOG.md").read_text(encoding="utf-8"), re.MULTILINE
    )
    assert heads[0] == VERSION
    assert len(set(heads)) == len(heads)
