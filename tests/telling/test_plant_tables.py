"""Chains and pipes as tables and pictures: every number is where its path says, in the reader's units."""

import pytest

from cryonome.demo import demo_document
from cryonome.questions import solve
from cryonome.results.answer_paths import value_at
from cryonome.telling.answers import tables
from cryonome.telling.panels import panels_of
from cryonome.telling.pipe_tables import point_block, size_block
from cryonome.telling.sentences import Units
from cryonome.telling.step_tables import stage_block, step_block, stream_block
from cryonome.units import exact

NAMES = ("gas train", "flowline size", "cold line, computed")


@pytest.fixture(scope="module")
def answers():
    return solve(demo_document(), NAMES)["answers"]


def _checked(block, answer, units):
    """Every number of a table leads to a value of the answer, and is that value in the unit of its column."""
    seen = 0
    for row, paths in zip(block.rows, block.paths):
        for text, path in zip(row, paths):
            if path:
                value = value_at(answer, path)
                assert isinstance(value, (int, float)), path
                assert text, path
                float(exact(text).replace("−", "-"))
                seen += 1
    return seen


@pytest.mark.parametrize("units", ["SI", "metric", "field"])
def test_tables_of_a_chain_and_of_lines(answers, units):
    reader = Units.of(units)
    train, size, line = (answers[n] for n in NAMES)
    assert _checked(stream_block(train, reader), train, reader) > 60
    assert _checked(step_block("K-1", train["steps"]["K-1"], reader), train, reader) >= 10
    assert _checked(size_block(size, reader), size, reader) > 100
    assert _checked(point_block(line, reader), line, reader) > 1000


def test_a_table_of_streams_says_phases_and_volumes_of_each(answers):
    train = answers["gas train"]
    block = stream_block(train, Units.of("field"))
    heads = [title for title, _ in block.columns]
    rows = {r[0]: dict(zip(heads, r)) for r in block.rows}
    assert dict(block.columns)["gas"] == "MMscf/d"
    assert dict(block.columns)["liquid"] == "bbl/d"
    assert rows["feed"]["phases"] == "V"
    assert rows["throttled"]["phases"] == "V L"
    assert float(rows["feed"]["gas"]) == pytest.approx(5.0, rel=1e-4)
    assert rows["feed"]["liquid"] == ""
    assert rows["condensate"]["gas"] == ""
    # The liquid of the stream before the drum is what the drum draws.
    assert float(rows["throttled"]["liquid"]) == pytest.approx(float(rows["condensate"]["liquid"]), rel=1e-3)


def test_stages_and_loops_stand_in_the_report(answers):
    train = answers["gas train"]
    titles = [b.title for b in tables(train, Units.of("metric"))]
    assert titles[:2] == ["streams", "K-1, compressor"]
    assert titles[-1] == "loops"
    staged = {
        **train["steps"]["K-1"],
        **{f"stage_{k}": [300.0, 400.0] for k in ("suction_K", "discharge_K", "pressure_Pa", "power_W")},
    }
    block = stage_block("K-1", staged, Units.of("metric"))
    assert [r[0] for r in block.rows] == ["1", "2"]
    assert stage_block("K-1", train["steps"]["K-1"], Units.of("metric")) is None


def test_pictures_of_lines_have_their_limits(answers):
    speed, gradient = panels_of("line_size", answers["flowline size"])
    assert speed.levels == {"limit": 20.0}
    assert gradient.levels == {"limit": 1100.0}
    assert list(speed.upright) == ["6 in"]
    temperature, elevation, pressure = panels_of("line_profile", answers["cold line, computed"])
    assert [c.name for c in temperature.curves] == ["temperature", "hydrate"]
    line = answers["cold line, computed"]
    assert elevation.curves[0].y[-1] == pytest.approx(line["points"][-1]["elevation_m"])
    assert pressure.curves[0].y[0] == line["points"][0]["pressure_Pa"]
    # Where the curves cross is where the line enters.
    crossing = line["enters"][0]["distance_m"]
    x, T, limit = temperature.curves[0].x, temperature.curves[0].y, temperature.curves[1].y
    inside = [a for a, t, h in zip(x, T, limit) if t < h]
    assert inside[0] >= crossing
