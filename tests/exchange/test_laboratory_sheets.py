"""Sheets as laboratories write them, in many layouts: what is read of each, in a line a thing."""

from __future__ import annotations

import pytest

from cryonome.exchange import Found, read_text


def summary(found: Found) -> list[str]:
    """Return what was read in lines: method, basis, first points and last amounts of samples, first row and single values of tests."""
    out = []
    for sample in found.samples:
        curve = sample.distillation
        points = ", ".join(f"{p:g}: {t}" for p, t in curve.points[:3])
        amounts = ", ".join(" ".join(str(c) for c in row if c is not None) for row in curve.amounts[-2:])
        out.append(" ".join(f"{curve.method} {curve.basis or ''} | {points}{amounts}".split()))
        named = (
            ("density", sample.bulk.density),
            ("loss", curve.loss),
            ("pressure", curve.pressure),
            ("plus", curve.plus.molar_mass),
            ("plus density", curve.plus.density),
        )
        out += [f"{k} {v}" for k, v in named if v not in (None, "")]
        out += [f"curve {sample.curves.density[0]}"] if sample.curves.density else []
        out += [f"light ends {dict(sample.light_ends.amounts)}"] if sample.light_ends.amounts else []
    for fluid in found.fluids:
        out.append(
            f"{fluid.basis} | " + ", ".join(f"{p.component or p.pseudo.name} {p.amount:g}" for p in fluid.parts[:4])
        )  # type: ignore[union-attr,str-format]
    for test in found.tests:
        row = ", ".join(f"{k} {v[0]}" for k, v in test.columns.items() if v[0] is not None)
        out.append(f"{test.kind} at {test.temperature} | {row}")
        out += [f"{k} {v}" for k, v in sorted(test.singles.items())]
    for brine in found.brines:
        out.append(f"{brine.molality:g} mol/kg | " + ", ".join(f"{n} {x:g}" for n, x in brine.salts))
    return out


SHEETS: dict[str, tuple[str, list[str]]] = {
    "one result a line, with units and methods": (
        "Test\tMethod\tResult\tUnit\nDensity at 15 °C\tD4052\t0.7321\tg/cm3\nIBP\tD86\t42\t°C\n5 % vol\tD86\t56\t°C\n50 % vol\tD86\t98\t°C\nFBP\tD86\t176\t°C\nLoss\tD86\t0.6\t% vol\n",
        ["D86 | 0: 42 degC, 5: 56 degC, 50: 98 degC", "density 0.7321 g/cm**3", "loss 0.6"],
    ),
    "gas, liquid and well stream side by side": (
        "SEPARATOR PRODUCTS\nComponent,Separator Gas,,Separator Liquid,Well Stream\n,Mol %,GPM,Mol %,Mol %\nMethane,88.00,,10.40,73.82\nPropane,11.45,2.8,34.32,14.91\nHexanes,0.30,0.12,9.30,2.00\n"
        "Heptanes Plus,0.25,0.11,45.98,9.27\n,100.00,3.03,100.00,100.00\n\nProperties of Heptanes Plus\nAPI gravity @ 60°F,,,48.2,\nMolecular weight,103,,148,147\n",
        ["carbon-number mole | C6 9.3, C7+ 45.98", "plus 148 g/mol", "plus density 48.2 degAPI", "carbon-number mole | C6 2.0, C7+ 9.27", "plus 147 g/mol", "mole | methane 88, propane 11.45, C6 0.3, C7+ 0.25"],
    ),
    "a footnote as unit": (
        "DIFFERENTIAL VAPORIZATION AT 201 °F\nPressure\tSolution GOR\tRelative Oil Volume\tOil Density\npsig\t(1)\t(2)\tgm/cc\n2620\t854\t1.600\t0.6562\n1000\t312\t1.295\t0.7401\n0\t0\t1.075\t0.7882\n"
        "(1) Cubic feet of gas at 14.65 psia and 60 °F per barrel of residual oil at 60 °F\n(2) Barrels of oil at indicated pressure per barrel of residual oil\n",
        ["liberation at 201 degF | pressure 2620 psig, solution_gas_m3_m3 854 scf/bbl, oil_volume_factor 1.6, oil_density_kg_m3 0.6562 g/cm**3"],
    ),
    "pressure and temperature in one cell": (
        "MULTI-STAGE SEPARATOR TEST (from 3450 psig at 205 F)\nSeparator conditions;Gas/oil ratio;Gas/oil ratio;Stock tank oil gravity;FVF\npsig / F;scf/bbl sep;scf/STB;°API;\n500 / 110;610;650;;\n80 / 90;110;114;;\n0 / 60;52;52;37.8;1.451\n",
        ["separators at 205 degF | pressure 500 psig, gas_oil_ratio_m3_m3 650 scf/bbl, temperature 110 degF", "api 37.8", "oil_volume_factor 1.451"],
    ),
    "properties of cuts at their middles": (
        "TBP distillation (ASTM D2892)\nCut point °C\tCum. vol%\tCum. wt%\tSG of cut\n15\t2.1\t1.4\t\n80\t9.6\t7.4\t0.662\n160\t23.9\t20.7\t0.745\n",
        ["TBP | 2.1: 15 degC, 9.6: 80 degC, 23.9: 160 degC", "curve (5.85, '0.662 SG')"],
    ),
    "a curve and its light ends": (
        "Sample;Brennock crude\nAPI;31,2\nTBP;\n% vol;°C\n5;82\n10;118\n30;236\n50;345\nLight ends\nComponent;LV %\nEthane;0,1\nPropane;0,6\n",
        ["TBP | 5: 82 degC, 10: 118 degC, 30: 236 degC", "density 31.2 degAPI", "light ends {'ethane': 0.1, 'propane': 0.6}"],
    ),
    "an expansion with pressures across": (
        "CCE;;;\nPressure [kPa];25000;22000;18250*;15000;12000\nRelative volume [-];0.9712;0.9833;1.0000;1.0921;1.2812\n* saturation pressure\nTest temperature [K];368.15\n",
        ["expansion at 368.15 K | pressure 25000 kPa, relative_volume 0.9712", "saturation.pressure_Pa 18250 kPa"],
    ),
    "a depletion across, its pressures in a row without a word": (
        "CVD at 121 °C\tDew point pressure 331 bara\n\tPressure, bara\nProperty\t331\t276\t221\nLiquid dropout, vol% of Vdp\t0.0\t7.8\t14.2\nCumulative gas produced, mole%\t0.00\t7.91\t21.38\nGas viscosity, cP\t0.0412\t0.0331\t0.0268\n",
        ["depletion at 121 degC | pressure 331 bar, liquid_volume_fraction 0.0, produced_mole_fraction 0.0, gas_viscosity_Pa_s 0.0412 cP", "saturation.pressure_Pa 331 bar"],
    ),
    "the gas of each step in a table of its own": (
        "Constant volume depletion at 255 °F\nPressure (psig)\tRetrograde liquid (%)\tZ\n4780\t0\t1.012\n4000\t7.8\t0.935\n\nComposition of produced gas, mol %\nComponent\t4780\t4000\nCO2\t2.10\t2.12\nC1\t84.19\t86.46\nC2+\t13.71\t11.42\n",
        ["depletion at 255 degF | pressure 4780 psig, liquid_volume_fraction 0.0, Z_gas 1.012, gas.carbon dioxide 0.021, gas.methane 0.8419, gas.C2+ 0.1371", "saturation.pressure_Pa 4780 psig"],
    ),
    "gauge in Spanish, the bubble point in its column": (
        "EXPANSIÓN A COMPOSICIÓN CONSTANTE A 104 °C\nPresión (kg/cm2 man.);Volumen relativo\n350;0,9671\n186 Pb;1,0000\n140;1,1302\n",
        ["expansion at 104 degC | pressure 350 kg/cm2(g), relative_volume 0.9671", "saturation.pressure_Pa 186 kg/cm2(g)"],
    ),
    "stages by name, single values in sentences": (
        "Separator train;;;;\nStage;Pressure;Temperature;GOR;Gas SG\n;kPag;°C;Sm³/Sm³;\nHP separator;4500;55;96,4;0,705\nStock tank;0;15;7,7;1,322\nOil FVF at bubble point: 1,417 m3/Sm3\nDensity of stock tank oil: 838 kg/m3\nReservoir temperature: 101 °C\n",
        ["separators at 101 degC | pressure 4500 kPag, temperature 55 degC, gas_oil_ratio_m3_m3 96.4 sm3/m**3, gas_gravity 0.705", "oil_volume_factor 1.417", "tank_density_kg_m3 838 kg/m**3"],
    ),
    "gas of the mixture becomes gas per mole": (
        "Swelling of Vandrel oil with lean gas, 98 °C\nGas added, mole fraction;Bubble point, bara;Swelling factor, V/Vo\n0,20;262,0;1,071\n0,50;341,5;1,172\n",
        ["swelling at 98 degC | gas_moles 0.25, saturation_pressure_Pa 262 bar, swelling_factor 1.071"],
    ),
    "a saturation pressure in a sentence": ("Bubble point pressure: 265.2 bara at 105 °C", ["saturation at 105 degC | ", "pressure 265.2 bar"]),
    "columns of spaces": ("Component        Mol %\nNitrogen          0.42\nMethane          97.93\nEthane            1.65\n", ["mole | nitrogen 0.42, methane 97.93, ethane 1.65"]),
    "a sample a row": ("Sample,N2,C1,C2\nTrain A,0.4,94.8,4.8\nTrain B,0.6,94.2,5.2\nmol %\n", ["mole | nitrogen 0.4, methane 94.8, ethane 4.8", "mole | nitrogen 0.6, methane 94.2, ethane 5.2"]),
    "fractions by mass": (
        "Carbon number;Weight fraction;Mol. mass;Density g/ml\nC6;0,0402;84;0,685\nC7;0,0611;96;0,722\nC8+;0,8987;310;0,878\n",
        ["carbon-number | C7 6.11 96 g/mol 0.722 g/cm**3, C8+ 89.87 310 g/mol 0.878 g/cm**3"],
    ),
    "observed under vacuum beside its atmospheric equivalent": (
        "Residue distillation\nLV%,Observed °F @ 5 mmHg,AET °F\nIBP,350,700\n10,432,805\n50,590,1002\n",
        ["D1160 | 0: 350 degF, 10: 432 degF, 50: 590 degF", "pressure 5 mmHg"],
    ),
    "two samples, a unit a row": (
        "Property;Unit;Sample A;Sample B\nDensity at 15 °C;kg/m3;745.2;801.1\nIBP;°C;38;152\n10 %;°C;61;171\n50 %;°C;104;199\nFBP;°C;181;259\n",
        ["TBP | 0: 38 degC, 10: 61 degC, 50: 104 degC", "density 745.2 kg/m**3", "TBP | 0: 152 degC, 10: 171 degC, 50: 199 degC", "density 801.1 kg/m**3"],
    ),
    "a water": ("Formation water analysis\nIon;mg/L\nSodium;28400\nPotassium;410\nCalcium;2900\nChloride;50100\nSulphate;25\nTDS;81835\n", ["1.514 mol/kg | NaCl 6.839, CaCl2 0.7607, KCl 0.07406"]),
}  # fmt: skip


@pytest.mark.parametrize("name", SHEETS)
def test_a_sheet_is_read_as_a_careful_reader_reads_it(name):
    text, wanted = SHEETS[name]
    assert summary(read_text(text, "sheet")) == wanted


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("Expansion at 200 F\nPressure (psia)\tRelative volume\tOil compressibility x 1e6\n3000\t0.97\t12.1\n2000\t1.2\t\n", "'Oil compressibility x 1e6' is not read"),
        ("Swelling test at 205 F\nGas injected (scf/bbl);Saturation pressure (psig);Swollen volume\n0;1810;1.000\n150;2105;1.052\n", "is a volume of gas"),
        ("Bottle,Opening pressure psig,Bubble point\nBHS-1,1210,\"Pb = 2,650 psig at 220 °F\"\n", "has two readings"),
        ("Constant composition expansion at 90 °C\nPressure\tRelative volume\n200\t1\n100\t1.4\n", "pressure needs its unit"),
        ("Component\tmol%\nMethane\t90\nEthane\t8\nUnobtanium\t2\n", "'Unobtanium' with 2 is not read"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_is_said(text, told):
    assert any(told in n.text for n in read_text(text, "sheet").notes)
