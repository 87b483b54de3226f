# %% Cryonome from Python
#
# Run it from the root of the project: `.venv/bin/python docs/example.py`. Cells are separated as notebooks read them.

import numpy as np

import cryonome

# %% A project: the demo here, `cryonome.open("hub.cryo")` for one of your own

hub = cryonome.open_demo()
print(hub.fluids)

# %% States: two conditions, as numbers in SI, as text with a unit, or as arrays of either

gas = hub.fluid("Selden gas")
line = gas.flash(temperature="4 degC", pressure=np.linspace(60e5, 150e5, 10))
print(line["vapour.density_kg_m3"].round(2))
print(gas.flash(pressure="80 bar", enthalpy=line["enthalpy_J_mol"][0]).temperature)

# %% A table over temperature and pressure, and a formula of it

table = gas.table(
    {"temperature": np.linspace(278.15, 323.15, 19), "pressure": np.linspace(60e5, 150e5, 19)},
    ["density_kg_m3", "vapour.Z"],
)
formula = table.fit("density_kg_m3")
print(table.values["density_kg_m3"].shape, f"{100 * formula.worst_error:.2g} %", float(formula(300.0, 100e5)))

# %% The envelope and its extremes

envelope = gas.envelope()
top = envelope.cricondentherm
print(f"{top.T - 273.15:.1f} degC at {top.P / 1e5:.1f} bar, {len(envelope.parts)} lines")

# %% The questions of the project, and the same with one input changed

print(hub.answer("first separator")["vapour_fraction"])
warmer = hub.with_value("studies[first separator].temperature", "70 degC")
print(warmer.answer("first separator")["vapour_fraction"])
