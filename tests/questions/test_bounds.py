"""What lies beyond any equation is refused where it stands, in a sentence and at once; what one question cannot bear ends that question alone."""

from __future__ import annotations

import json
import threading
import time

import pytest

from ask import answers, command, faults
from cryonome.document import DocumentError, format_path
from cryonome.errors import DomainError
from cryonome.results.cache import Cache
from cryonome.units import QuantityError, parse
from cryonome.watch import Cancelled, Watch

OIL = {
    "name": "oil",
    "parts": [{"component": n, "amount": a} for n, a in (("methane", 40), ("propane", 12), ("n-decane", 48))],
}


def document(*studies, fluid=OIL):
    return {"format": "cryonome/1", "fluids": [fluid], "studies": list(studies)}


def flash(name="f", **conditions):
    return {"name": name, "kind": "flash", "fluid": "oil", **conditions}


@pytest.mark.parametrize(
    ("study", "place", "words"),
    [
        (flash(temperature="55 degC", pressure="1e30 barg"), "pressure", "beyond any pressure"),
        (flash(temperature="55 degC", pressure=9.7e14), "pressure", "beyond any pressure"),
        (flash(temperature=1e-12, pressure="1 bar"), "temperature", "begin at 1 K"),
        (flash(temperature="300 K", enthalpy="1e30 J/mol"), "enthalpy", "beyond any molar enthalpy"),
        ({"name": "b", "kind": "saturation", "fluid": "oil", "temperature": "60 degC", "measured": {"points.bubble.pressure_Pa": "0 bar"}},
         "measured.points.bubble.pressure_Pa", "above zero"),
        ({"name": "b", "kind": "saturation", "fluid": "oil", "temperature": "60 degC", "measured": {"points.bubble.pressure_Pa": -5}},
         "measured.points.bubble.pressure_Pa", "above zero"),
        ({"name": "e", "kind": "expansion", "fluid": "oil", "temperature": "90 degC", "pressures": ["300 bar", "100 bar"],
          "measured": {"relative_volume": [5e-324, 1.2]}}, "measured.relative_volume[0]", "no number that can be measured"),
        (flash(temperature="300 K", pressure="1 bar", reference={"density_kg_m3": 5e-324}), "reference.density_kg_m3", "no number to compare"),
    ],
)  # fmt: skip
def test_what_no_equation_should_see_is_refused_at_its_cell(study, place, words):
    data = document(study, flash("good", temperature="300 K", pressure="1 bar"))
    told = {format_path(f.path): f.message for f in faults(data)}
    assert words in told[f"studies[0].{place}"]
    found = answers(data)
    assert found["good"]["ok"]
    assert not found[study["name"]]["ok"]


def test_a_sweep_is_checked_at_both_ends_and_other_questions_go_on():
    vary = {"path": "studies[f].temperature", "from": "-10 K", "to": "369 K", "steps": 2}
    data = document(
        flash(temperature="300 K", pressure="1 bar"),
        {"name": "s", "kind": "sweep", "of": "f", "vary": vary, "read": ["pressure_Pa"]},
    )
    found = answers(data)
    assert found["f"]["ok"]
    assert found["s"]["faults"] == [{"path": "studies[1].vary.from", "message": found["s"]["faults"][0]["message"]}]
    assert "above 0 K" in found["s"]["error"]


def test_what_was_measured_beyond_the_rows_has_no_partner_in_a_lumping():
    measured = {"oil_volume_factor": [1.4, 1.3, 1.2, 1.1]}
    test = {
        "name": "l",
        "kind": "liberation",
        "fluid": "oil",
        "temperature": "90 degC",
        "pressures": ["100 bar", "20 bar", "1 atm"],
        "measured": measured,
    }
    found = answers(
        document(test, {"name": "few", "kind": "lumping", "fluid": "oil", "groups": [["propane", "n-decane"]]})
    )
    assert found["few"]["ok"]
    assert found["few"]["tests"]["l"]["lumped_deviation_percent"] > 0.0


def test_a_state_out_of_reach_is_refused_by_its_ends_alone():
    """Entropy of a brine far below what the fluid has: it took 50 flashes of three phases to say so."""
    wet = {"name": "oil", "model": {"salinity": "5 %"}, "parts": [*OIL["parts"], {"component": "water", "amount": 15}]}
    start = time.perf_counter()
    found = answers(document(flash(pressure="10 bar", entropy="-364.7 J/mol/K"), fluid=wet))["f"]
    assert "it goes from" in found["error"]
    assert time.perf_counter() - start < 8.0  # 1.3 s alone; 17 s before


@pytest.mark.parametrize(("name", "Tc", "Pc", "omega", "M"), [
    ("nitrogen", 126.192, 33.958, 0.0372, 28.0134), ("carbon dioxide", 304.1282, 73.773, 0.22394, 44.0095),
])  # fmt: skip
def test_a_light_gas_given_by_its_constants_alone_is_that_gas(name, Tc, Pc, omega, M):
    """Equilibrium and density need nothing but what was given; they are those of the databank's component with the same constants."""
    pseudo = {"name": "own", "Tc": f"{Tc} K", "Pc": f"{Pc} bar", "omega": omega, "molar_mass": M}
    model = {"kij": "zero", "volume_shift": "none"}
    rest = [{"component": "propane", "amount": 30}, {"component": "n-decane", "amount": 30}]
    fluids = [
        {"name": n, "parts": [{**part, "amount": 40}, *rest], "model": model}
        for n, part in (("a", {"pseudo": pseudo}), ("b", {"component": name}))
    ]
    studies = [{"name": f, "kind": "flash", "fluid": f, "temperature": "40 degC", "pressure": "30 bar"} for f in "ab"]
    found = answers({"format": "cryonome/1", "fluids": fluids, "studies": studies})
    assert found["a"]["ok"], found["a"].get("error")
    for key in ("vapour_fraction", "density_kg_m3"):
        assert found["a"][key] == pytest.approx(found["b"][key], rel=5e-3)
    assert all(v["viscosity_Pa_s"] > 0.0 and v["heat_capacity_p_J_mol_K"] > 0.0 for v in found["a"]["phases"])


def test_a_trace_that_cannot_be_told_from_nothing_is_a_fault_of_its_row():
    rows = [["methane", 72], ["C6", 1.0], ["C7", 1.3], ["C12", 1e-30], ["C14+", 3]]
    sample = {
        "name": "S",
        "distillation": {
            "method": "carbon-number",
            "basis": "mole",
            "amounts": rows,
            "plus": {"molar_mass": "318 g/mol", "density": "0.866 g/cm3"},
        },
    }
    data = {
        "format": "cryonome/1",
        "samples": [sample],
        "studies": [{"name": "c", "kind": "characterization", "sample": "S"}],
    }
    with pytest.raises(
        DocumentError, match=r"samples\[0\]\.distillation\.amounts\[3\]\[1\].*than can be told from nothing"
    ):
        answers(data)


@pytest.mark.parametrize(
    ("text", "kind", "si"),
    [
        ("10 ksc", "pressure", 980665.0), ("20 inHg vac", "pressure", 101325.0 - 20 * 3386.389), ("10 in. w.g.", "pressure", 101325.0 + 2490.889),
        ("1e5Pa", "pressure", 1e5), ("100 p.s.i.g.", "pressure", 100 * 6894.757 + 101325.0), ("10 ft H2O", "pressure", 29890.67), ("15 µPa·s", "dynamic_viscosity", 1.5e-5),
        ("5 MB/D", "volume_rate", 5000 * 0.158987295 / 86400), ("30 dynes/cm", "surface_tension", 0.03), ("1e-5 1/psia", "compressibility", 1e-5 / 6894.757),
        ("1000 Btu/scf", "heating_value", 1055.056e3 / 0.0283168), ("1 Mt/a", "mass_rate", 1e9 / (365.25 * 86400)),
        # A grain is 64.79891 mg; a standard cubic foot 1.1953 mol.
        ("7 gr/scf", "water_content", 7 * 64.79891e-6 / 1.19530),
    ],
)  # fmt: skip
def test_units_of_the_trade_are_read_as_they_are_meant(text, kind, si):
    assert parse(text, kind) == pytest.approx(si, rel=1e-4)


@pytest.mark.parametrize(("text", "kind"), [("5 Mbar", "pressure"), ("215 MW", "molar_mass"), ("3 mb", "volume")])
def test_units_that_were_misread_are_refused(text, kind):
    with pytest.raises(QuantityError):
        parse(text, kind)
    assert issubclass(QuantityError, DomainError)  # never a fault of the program


def test_a_fluid_that_a_question_gives_is_refused_where_it_cannot_be():
    fluids = [
        OIL,
        {"name": "own", "made_by": {"study": "f", "stream": "vapour"}, "model": {"eos": "SRK"}},
        {"name": "loop", "made_by": {"study": "of loop", "stream": "vapour"}},
        {"name": "none", "made_by": {"study": "line"}},
        {"name": "third", "made_by": {"study": "f", "stream": "aqueous"}},
    ]
    studies = [flash(temperature="300 K", pressure="20 bar"), {"name": "line", "kind": "envelope", "fluid": "oil"}]
    studies += [
        {**flash(f"of {n}", temperature="300 K", pressure="20 bar"), "fluid": n}
        for n in ("own", "loop", "none", "third")
    ]
    found = answers({"format": "cryonome/1", "fluids": fluids, "studies": studies})
    told = {n: found[f"of {n}"]["error"] for n in ("own", "loop", "none", "third")}
    assert "has the model of that question's fluid" in told["own"]
    assert "a question that is about it" in told["loop"]
    assert "gives no fluid; there is" in told["none"]
    assert "there is vapour, liquid" in told["third"]


def test_files_that_must_not_be_written_are_refused(tmp_path):
    data = document(flash(temperature="300 K", pressure="1 bar"))
    source = tmp_path / "n.cryo"
    source.write_text(json.dumps(data))
    before = source.read_bytes()
    for args, words in (
        (("export", str(source), str(source)), "ending is '.cryo'"),
        (("export", str(source), str(tmp_path / "x.txt")), "ending is '.txt'"),
        (("solve", str(source), "--output", str(tmp_path / "none" / "a.json")), "there is no folder"),
        (("solve", str(source), "--output", str(source)), "the very file that is read"),
        (("solve", str(source), "--output", str(tmp_path)), "is no file"),
    ):
        done = command(*args)
        assert done.returncode == 2
        assert words in done.stderr, done.stderr
    assert source.read_bytes() == before
    assert sorted(p.name for p in tmp_path.iterdir()) == ["n.cryo"]


def test_one_computation_of_a_key_at_a_time_and_who_waits_may_leave():
    cache, calls, gate = Cache(), [], threading.Event()

    def slow():
        calls.append(1)
        gate.wait(5.0)
        return 7

    found = []
    threads = [threading.Thread(target=lambda: found.append(cache.get("k", slow))) for _ in range(4)]
    for thread in threads:
        thread.start()
    while not calls:
        time.sleep(0.001)
    with pytest.raises(Cancelled):
        cache.get("k", slow, Watch(lambda: True))
    gate.set()
    for thread in threads:
        thread.join(5.0)
    assert found == [7, 7, 7, 7]
    assert len(calls) == 1
    # What failed is computed by the next who asks, not remembered.
    with pytest.raises(ZeroDivisionError):
        cache.get("bad", lambda: 1 // 0)
    assert cache.get("bad", lambda: 3) == 3
