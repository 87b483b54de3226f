"""The documentation as pages: method notes from the registries, examples that run, a build without warnings."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

import pytest

from cryonome.characterization.correlations import REGISTRY
from cryonome.eos.building import ENTRIES
from cryonome.properties import PROPERTIES

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "scripts"))


@pytest.fixture(scope="module")
def notes():
    import method_notes

    return method_notes.pages()


def test_each_method_has_a_page_with_its_equation_source_and_range(notes):
    for prop, entries in REGISTRY.items():
        for key, entry in entries.items():
            text = notes[f"correlations/{prop}-{key}.md"]
            for what in ("Equation", "Source", "Range"):
                assert f"**{what}.** " in text, (prop, key, what)
            assert entry.source in text
            assert entry.formula in text
    for key, entry in ENTRIES.items():
        assert any(entry.source in text for path, text in notes.items() if path.startswith("equations/")), key
    assert {f"properties/{key}.md" for key in PROPERTIES} <= set(notes)
    # Every page is reached from the first.
    listed = set(re.findall(r"^([\w-]+/[\w-]+)$", notes["index.md"], flags=re.MULTILINE))
    assert {f"{name}.md" for name in listed} == set(notes) - {"index.md"}


def test_a_page_tells_how_far_a_correlation_is_from_pure_hydrocarbons(notes):
    """Twu (1984) was built on n-alkanes: their molar masses within a percent, as docs/correlations.md has it."""
    row = re.search(r"\| n-alkanes \| ([\d.]+) \| ([\d.]+) \|", notes["correlations/molar_mass-twu-1984.md"])
    assert row is not None
    assert float(row[1]) == pytest.approx(0.3, abs=0.05)


def test_functions_are_told_with_their_publications(notes):
    assert "Michelsen" in notes["functions/equilibrium.md"]
    assert "Whitson" in notes["functions/labtests.md"]
    assert "``" not in notes["functions/eos.md"].replace("```", "")


def test_the_examples_of_the_reference_run(capsys):
    text = (ROOT / "docs" / "api.md").read_text(encoding="utf-8")
    shared: dict[str, object] = {}
    blocks = re.findall(r"```python\n(.*?)```", text, flags=re.DOTALL)
    assert len(blocks) >= 6
    for block in blocks:
        exec(compile(block, "docs/api.md", "exec"), shared)
    told = capsys.readouterr().out
    assert "Where do hydrates of Selden gas form" in told
    assert "unknown property 'colour' of a phase" in told


def test_the_pages_are_built_without_a_warning_and_can_be_searched(tmp_path):
    pytest.importorskip("sphinx")
    built = subprocess.run(
        [sys.executable, "-m", "sphinx", "-b", "html", "-q", "-W", "-d", tmp_path / "kept", ROOT / "docs", tmp_path / "html"],
        capture_output=True, text=True, check=False, timeout=300,
    )  # fmt: skip
    assert built.returncode == 0, built.stderr
    words = (tmp_path / "html" / "searchindex.js").read_text(encoding="utf-8")
    for word in ("cricondentherm", "cavett", "glycol", "with_value"):
        assert word in words
    # Typed signatures, and nothing that needs a network.
    api = (tmp_path / "html" / "api.html").read_text(encoding="utf-8")
    assert "Answered" in re.sub(r"<[^>]+>", "", api)
    for page in ("index.html", "methods/index.html", "search.html"):
        text = (tmp_path / "html" / page).read_text(encoding="utf-8")
        assert not re.search(r"""<(?:script|link)[^>]+(?:src|href)=["']https?://""", text), page
