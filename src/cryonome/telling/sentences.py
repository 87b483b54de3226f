"""The sentences of remarks, made in the reader's units: the border between data and words.

A remark carries a code and values; the sentence of a code stands here, with the values by name. ``{T}`` writes a
measure in the reader's unit, ``{x:.2f}`` a plain number as told. To add a remark, give it a code where it arises and
a sentence here; ``tests/studies/test_sentences.py`` holds the two together."""

from __future__ import annotations

import math
import string
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from ..remarks import Measure, Remark, Value, Word
from ..units import KINDS, SETS, format_number, from_si, label
from ..units.endings import last_key

WORDS: dict[str, str] = {
    "air.saturated": "saturated with air at {cold}",
    "air.none": "without dissolved air",
    "container.live_rule": "a floating piston cylinder, since the sample boils above the atmosphere at {T}",
    "container.dead_rule": "an open one-litre container, since the sample does not boil at {T}",
    "container.live_said": "a floating piston cylinder, as asked",
    "container.dead_said": "an open one-litre container, as asked",
    "relation.live": "{slope:g} VPCR4 + {more}, the relation of ASTM D6377 for samples from",
    "relation.dead": "{slope:g} VPCR4, the relation of ASTM D6377 for samples from",
    "relation.own": "{slope:g} VPCR4 + {more}, an own relation; the sample is from",
    "beyond.below": "below {low:g} %",
    "beyond.above": "above {high:g} %",
    "beyond.both": "below {low:g} % and above {high:g} %",
    "end.scaled": "it is scaled to the measured value",
    "end.kept_curve": "the curve is kept, as chosen",
    "end.moved": "they are moved to the measured value",
    "end.kept_curves": "the curves are kept, as chosen",
    "ends.probability": "along the probability scale through the two outer points",
    "ends.given": "along the probability scale through the two outer points",
    "ends.distribution": "by the distribution fitted to all points",
    "ends.linear": "straight through the two outer points",
    "front.goes_on": "the curve goes on",
    "front.rest_begins": "the curve of the rest begins",
    "limit.nbp": "boiling point",
    "limit.sg": "specific gravity",
    "limit.watson_k": "Watson K",
    "limit.molar_mass": "molar mass",
    "noun.density": "density",
    "noun.molar_mass": "molar mass",
    "property.density": "density along the curve",
    "property.molar_mass": "molar mass",
    "property.Tc": "critical temperature",
    "property.Pc": "critical pressure",
    "property.omega": "acentric factor",
    "property.Vc": "critical volume",
    "property.cp": "ideal-gas heat capacity",
    "property.liquid_density": "liquid density at 100 and 210 °F",
    "property.viscosity": "kinematic viscosity at 100 and 210 °F",
    "property.parachor": "parachor",
}
"""Wordings a computation chooses between."""

SENTENCES: dict[str, str] = {
    "plain.said": "{text}",
    "components.above": "Above their critical temperatures at {T}, without a vapour pressure: {names}.",
    "components.by": "Vapour pressures by {equation}.",
    "table.continued": "Phases that are absent are continued with the composition they form with at the nearest boundary of their temperature; they have no share of the whole.",
    "table.renamed": "In {count} of {states} states phases have other names than in a flash: a single one the name that what forms from it leaves, of two liquids the lighter that of the vapour.",
    "table.held": "At {count} of {states} states there can be no {phase} of its composition; it has the values of a little before it ceases to be one.",
    "table.no_formula": "There is no formula for {key}: {why}.",
    "advice.unjudged": "Nothing is known here of where this equation holds; compare it with another.",
    "spread.none": "None of the {count} samples has an answer: {why}",
    "spread.no_statement": "{method} states no precision of its temperatures: the boiling curve of {sample} counts as certain until its deviation is given under uncertain.",
    "spread.stated_reproducibility": "Uncertain is what the test methods of the samples state, by the reproducibility between laboratories; each standard deviation is R/2.77. Inputs: {count}.",
    "spread.stated_repeatability": "Uncertain is what the test methods of the samples state, by the repeatability of one operator; each standard deviation is r/2.77. Inputs: {count}.",
    "spread.of_tests": "Of these, {count} are what was measured in the tests of the match, each by its own uncertainty.",
    "spread.common": "What reproducibility is more than repeatability counts as one error of a laboratory, the same way for all points of a curve.",
    "spread.rising": "Points of a curve that would change places are put back into their order.",
    "spread.failed": "{failed} of {count} samples have no answer and are left out: {why}.",
    "spread.still": "Nothing that is read moves with what is uncertain.",
    "spread.missing": "{read}: {missing} of {count} samples have no such value and are left out.",
    "spread.correlated": "Some inputs go together, as the fit says; their shares are relative weights.",
    "spread.ranks": "{read} bends with its inputs: its shares are of ranks.",
    "spread.sketch": "Percentiles of lists are those of {kept} samples chosen at random out of all; means and deviations are of all.",
    "spread.some_shares": "Shares are from the first {count} samples.",
    "spread.some_bands": "Bands are from the first {count} samples.",
    "spread.few": "{count} samples of {scores} uncertain numbers tell little about shares; ask for {wanted} or more.",
    "sweep.none": "None of the {count} answers could be given:",
    "goal.nowhere": "No answer anywhere between the ends:",
    "goal.out_of_reach": "{what} of {target} is out of reach: between the ends it runs from {low} to {high}",
    "volatility.wet": "The true vapour pressure is of the fluid with its water; the other pressures are of the sample without it, as it is "
    "tested.",
    "volatility.no_liquid": "There is no liquid that a Reid or dry vapour pressure could be measured of.",
    "volatility.reid": "Reid and dry vapour pressure: the sample {air}, the vapour space four times the liquid, read at {T} (ASTM "
    "D323, D5191).",
    "volatility.dry_range": "There is no dry vapour pressure equivalent: it would lie outside the range of D5191, {low} to {high}.",
    "volatility.liquefied": "Above that range the test of liquefied gases (ASTM D1267) is simulated: a full bomb from which a third of the liquid is let out, "
    "{ratio:g} of vapour to liquid volume at {T}; its pressure is gauge, above one atmosphere.",
    "volatility.live": "The sample is live, above {P} at {T}; a Reid bomb would lose light ends that are kept here.",
    "volatility.live_said": "The sample is taken as live; a Reid bomb would lose light ends that are kept here.",
    "volatility.equivalent": "The Reid equivalent is {relation} {container}.",
    "cuts.boundary_outside": "One cut boundary lies outside the curve and has no effect.",
    "cuts.boundaries_outside": "{count} cut boundaries lie outside the curve and have no effect.",
    "yields.by": "The {what} of products by {by}.",
    "yields.beyond": "Outside the range that {by} was published for: the {what} of {names}.",
    "cuts.estimated": "{property} of the cuts by {by}.",
    "cuts.beyond": "{properties}: the cuts {ranges} lie outside the range of {by} ({limits}).",
    "bulk.watson_differs": "The given Watson K of {given:.2f} differs by {off:+.1f} % from the {own:.2f} of curve and density; the "
    "density is trusted.",
    "bulk.watson_range": "A Watson K of {own:.2f} is outside {low:g} to {high:g}, the range of crude oils and their fractions; check "
    "density and curve.",
    "curve.beyond_density": "The density curve is continued {sides} in the shape of {by}.",
    "curve.beyond_molar_mass": "The molar-mass curve is continued {sides} in the shape of {by}.",
    "curve.beyond_viscosity": "The viscosity curve at {at} is continued {sides} in the shape of {by}.",
    "curve.beyond_quantity": "The curve of {name} is continued {sides} in straight lines.",
    "curve.evaporated": "Percents recovered are read as percents evaporated: a loss of {loss:.2g} % is added, as ASTM D86 does.",
    "curve.adds_up": "The {what} curve adds up to {own}, {off:+.2f} % off the measured {given}; {end}.",
    "curve.rebased": "The percents by {old} are brought to those by {new} that {method} is read on, with a constant Watson K of "
    "{watson:.2f}.",
    "curve.from_vacuum": "Temperatures at {P} are brought to 1 atm by {by}, with a Watson K of {watson:.2f}.",
    "curve.from_barometer": "Temperatures read at {P} are brought to 1 atm by {by}.",
    "curve.cracking": "D86 temperatures above {above} are corrected for thermal cracking, by up to {most} ({by}).",
    "curve.tail": "The tail at {P} is brought to 1 atm by {by}.",
    "curve.falls_back": "The converted curve falls back by {fall} at {percent:g} %; it is held level there. The sample is wider than "
    "the conversion was made for.",
    "curve.way_falls": "The D86 curve on the way from {method} to TBP would fall between {low:g} and {high:g} %; it is passed over there. Check the {method} curve: "
    "the conversion was made for narrower samples.",
    "curve.shown_falls": "The {method} curve of the sample would fall between {low:g} and {high:g} %, which no distillation does; it is left out there.",
    "curve.end_held": "The converted curve would end at {end}; it is held at {held}. Give a lower final point.",
    "curve.converted": "{method} to TBP at 1 atm: {by}.",
    "curve.beyond_conversion": "The {method} curve is outside the range of {by} ({limits}).",
    "curve.not_run": "As {method} the sample boils beyond the method above {percent:g} %: it is not run above {T}.",
    "curve.closed": "The curve is continued to {percent} % at {T} {how}.",
    "curve.residue_held": "The residue above {percent:g} % cannot be extrapolated: the line through the last points leaves the range "
    "of boiling points. It is held at {T}; give the final point.",
    "curve.long_residue": "The curve ends at {percent:g} %: {rest:.0f} % of the sample rest on the extrapolation. Give more points "
    "or the final point.",
    "density.clipped": "The density along the curve leaves specific gravities of {low:g} to {high:g} and is held there; check curve "
    "and density.",
    "density.constant_watson": "Density along the curve: constant Watson K of {watson:.2f}, scaled to the measured density.",
    "density.scaled": "Density along the curve by {by}, scaled by {scale:.4f} to the measured density.",
    "density.given_watson": "Density from the given Watson K of {watson:.2f}, which the whole sample has at its mean average boiling point; its "
    "cuts have {own:.2f}.",
    "density.assumed": "Nothing tells the density: {by} with a Watson K of {watson:g} of the whole is assumed, {own:.2f} of the cuts. Give a density, a Watson K or a "
    "density curve.",
    "molar_mass.scaled": "The molar masses of the cuts are scaled by {scale:.4f} so that they add up to the measured {given}.",
    "molar_mass.differs": "The measured molar mass differs by {off:+.1f} % from the estimate of {own}.",
    "molar_mass.contradicts": "The molar-mass curve contradicts boiling and density curves: at {percent:g} % it is {off:+.0f} % off "
    "what {by} makes of them.",
    "viscosity.curves_add_up": "The viscosity curves add up to {own} at {T}, {off:+.0f} % off the measured {given}; {end}.",
    "viscosity.cuts_add_up": "The viscosities of the cuts by {by} add up to {own} at {T}, {off:+.0f} % off the measured {given}; {end}.",
    "quantity.adds_up": "The curve of {name} adds up to {own:.4g} {unit}, {off:+.1f} % off the measured {given:.4g}; {end}.",
    "light_ends.estimated": "Light ends from the front of the curve, {share:.2f} % by {basis}: {species}.",
    "light_ends.too_large": "The light ends take the first {share:.2f} % of the curve, which reaches {begins} there; their heaviest, "
    "{heaviest}, boils at {nbp}. They are larger than the front of the curve allows ({allowed:.2f} %).",
    "light_ends.not_told": "{names}: no hydrocarbons, so that no boiling curve tells their amount; they are left out. Measure them.",
    "light_ends.gap": "The light ends end with {heaviest}, whose part of the front ends at {last}, and the first cut begins at {begins}: nothing boils between. "
    "List what does, or check the amounts.",
    "light_ends.overlap": "{heaviest} of the light ends boils at {nbp}, above the {begins} where {where}: light ends and curve overlap.",
    "carbon.boiling": "Boiling points of the fractions of C{number}+ from molar mass and density by {by}.",
    "carbon.groups": "Boiling points, densities and molar masses of the carbon groups by Katz and Firoozabadi, where not measured.",
    "carbon.quadrature": "C{number}+ as {count} fractions by Gaussian quadrature over a gamma distribution, alpha {shape:g}.",
    "carbon.split": "C{number}+ split up to C{last}: {by}; densities by {density}.",
    "carbon.split_gamma": "C{number}+ split up to C{last}: {by}, alpha {shape:g}; densities by {density}.",
    "carbon.adds_up": "The analysis adds up to {own}, {off:+.1f} % off the measured {given}; the analysis is kept.",
    "carbon.lumped": "{fractions} fractions are lumped into {lumps} by {by}.",
    "lumping.no_source": "{fluid} was lumped from {source}, which is not here as it was: components that were joined are not told apart.",
    "lumping.delumped": "Asked of the {count} components that {fluid} was lumped from, not of its {own}.",
    "lumping.effect": "The saturation pressure at {T} ({kind} point) is {lumped} lumped and {unlumped} with all {fractions} "
    "fractions, {off:+.2f} %.",
    "lumping.none": "There is no saturation pressure at {T} to compare lumped and unlumped fluid by.",
    "parts.one_grid": "The cuts of {samples} share one grid of {count} boiling ranges; properties are means by mass.",
    "parts.estimated": "{name}: {what}.",
    "parts.apparent_volume": "{name} counts by an apparent liquid volume.",
    "parts.separator_density": "The liquid's density at the separator, {there} at {T}, from {standard} at 60 °F by ASTM D1250 "
    "and API MPMS 11.2.1M.",
    "parts.separator_gassy": "At {T} and {P} of the separator {liquid} is far below its bubble point: it would give off gas still at a "
    "quarter more pressure. Check that liquid, temperature and pressure belong together.",
    "parts.separator_dead": "At {T} and {P} of the separator {liquid} is far above its bubble point: it would not boil at a fifth less "
    "pressure. Check that liquid, temperature and pressure belong together.",
    "model.library": "Interaction parameters: library of measured pairs, a volume rule for methane with heavier hydrocarbons "
    "(scale {scale:g}, exponent {exponent:g}), zero between other hydrocarbons.",
    "model.pairs_missing": "The library has no interaction parameter for {pairs}; zero is used. Give your own where it matters.",
    "model.viscosity_blended": "Viscosities of {samples} are blended by the double logarithm, ln ln(v + 0.8) by mass (ASTM D7152).",
    "model.viscosity_matched": "Liquid viscosities are brought to those measured of {sample} ({count}).",
    "model.viscosity_matched_curves": "Liquid viscosities are brought to those that the viscosity curves of {sample} ({count}) add up to.",
    "inhibitor.weak": "{name} injected at {lean} wt% cannot make {needed} wt% of the water; inject it stronger.",
    "contact.no_gas": "There is no gas at {T} and {P} to be dried.",
    "contact.no_strength": "No strength of {name} gives a dew point of {dew} there; between 50 and 99.99 wt% they are from {low} to {high}.",
    "model.aqueous": "Aqueous liquids have the density, heat capacity, sound, viscosity and conductivity of correlations for water, brine, alcohols and "
    "glycols; equilibria are the equation's.",
    "model.cubic_alcohol": "{names} with hydrocarbons beyond butane: a cubic cannot describe both liquids. At {T} methanol dissolves a tenth to a "
    "hundredth of the hydrocarbon that was measured, and alkanes hold up to twice as much methanol; CPA meets both within some 20 %.",
    "model.cubic_glycol": "{names} with hydrocarbons beyond butane: a cubic cannot describe both liquids. What dissolves in the glycol is met at {T}, but "
    "hydrocarbons hold fifty times and more the glycol that was measured; CPA describes both.",
    "model.bonds": "{names}: published constants of cubic plus association, with bonds; all others have the constants of SRK, from their critical "
    "points and acentric factors.",
    "model.no_bonds": "Nothing here bonds with its like, so that cubic plus association is SRK.",
    "model.bonds_unknown": "{names}: molecules that associate, of which cubic plus association has no constants here; their bonds are left out.",
    "model.saft_estimated": "PC-SAFT parameters of {names} are estimated: the segment number from the molar mass, size and energy so that "
    "boiling point and liquid density are met.",
    "model.saft_associates": "{names}: molecules that associate, which PC-SAFT without its association term does not describe; use a cubic "
    "equation where they matter.",
    "model.shift_without_effect": "The volume shift of '{name}' has no effect: the fluid has no such component.",
    "model.omegas_without_effect": "The constants Ωa and Ωb of '{name}' have no effect: the fluid has no such component.",
    "model.alpha_smooth": "Above their critical temperatures components follow an exponential that goes on from the equation's published alpha function.",
    "state.dense": "The vapour is a dense fluid: above the critical temperature of its composition as one fluid, {packing:.2g} times as dense as critical there.",
    "state.cold_water": "At {T} the aqueous liquid is colder than its correlations go: of its water, density, heat capacity and sound are those at {edge}, "
    "viscosity and conductivity those at {end} where it is colder still.",
    "state.alpha_rises": "{names}: at {T} the equation's own alpha function rises with temperature, which is no physics; choose the smooth one.",
    "model.zero": "All interaction parameters but your own are zero.",
    "model.pair_without_effect": "The pair {one}, {other} names a component that is not in the fluid now; it has no effect.",
    "map.no_start": "No start at low pressure was found for the {fraction:line}.",
    "map.stuck": "The {fraction:line} stops at {T} and {P}: it could not be followed further; a third phase may begin there.",
    "map.pressure_limit": "The {fraction:line} rises beyond {P} at {T} and is cut there.",
    "map.fourth": "From {T} and {P} on a fourth phase would form; the boundaries of three phases are left off there.",
    "map.metastable": "Between {low} and {high} the {fraction:line} is metastable: another phase forms before it is reached (a second "
    "liquid, or a solid the equation does not know).",
    "map.no_critical": "No critical point was found.",
    "map.false_critical": "At {T} and {P} two phases of the traced lines become one, but another phase has formed there before: it is no critical point.",
    "map.tail": "The cricondenbar of {P} at {T} is where vapour and liquid end; in the cold a line rises again, to {end_P} at {end_T} where tracing ended.",
    "map.other_cricondentherm": "A line turns back from a highest temperature of {T} at {P} as well.",
    "map.other_cricondenbar": "A line turns back from a highest pressure of {P} at {T} as well.",
    "map.no_cricondentherm": "The envelope has no cricondentherm within the traced range.",
    "map.no_cricondenbar": "The envelope has no cricondenbar within the traced range.",
    "map.pure": "A pure fluid: bubble and dew line are its vapour pressure curve, which ends at the critical point.",
    "state.none": "There is {fraction:point} at {at} within the traced envelope.",
    "state.several": "The vapour fraction {fraction:g} occurs more than once here (retrograde condensation): also at {others}.",
    "state.not_converged": "The search for the state of {asked} did not converge.",
    "state.fourth": "At {asked} a fourth phase would form; up to three are computed.",
    "state.several_meet": "More than one state meets these conditions: shown is that at {chosen}; the others are at {others}.",
    "line.two_phases": "Two phases flow, {share:.3g} vol% liquid; their fall of pressure is by {method}",
    "line.little_liquid": "{share:.2g} vol% of liquid is less than the {least:g} % from which on Beggs and Brill measured: the holdup is withheld, and the fall of pressure is that of a homogeneous mixture",
    "line.two_liquids": "Oil and water flow as one liquid, their viscosities averaged by volume",
    "line.chokes": "Sizes up to {size} in choke: the mixture would move faster than its sound",
    "line.erosional": "Sizes up to {size} in exceed the erosional velocity of C = {constant:g}",
    "line.long": "Along its length {size} in loses {drop}, {share:.3g} % of the pressure: the state changes on the way, so ask for a profile",
    "line.steady": "Steady flow alone: no slugs, no start and no stop",
    "line.choked": "The flow chokes {at} along the line, before {leg}; take a larger pipe or less flow",
    "line.no_pressure": "The pressure runs out {at} along the line, before {leg}; take a larger pipe, less flow or more pressure",
    "line.not_found": "The line was not found: {why}",
    "line.actual_rate": "An actual volume needs the pressure of the inlet; give the rate by mass, by moles or as a standard volume",
    "line.beggs_brill": "Holdup and regime are by Beggs and Brill with Payne's corrections, which were measured in small pipes with air and water",
    "line.enters": "{before} before {station} the line enters the {limit} limit",
    "process.compressor_ratio": "Step {step}: a compressor's ratio is above one; this one is {ratio:.4g}",
    "process.pump_ratio": "Step {step}: a pump's ratio is above one; this one is {ratio:.4g}",
    "process.expander_ratio": "Step {step}: an expander's ratio is not one; this one is {ratio:.4g}",
    "process.compressor_pressure": "Step {step} would end at {P}, below its inlet at {inlet}; a compressor raises the pressure. Let it down with a valve or an expander",
    "process.pump_pressure": "Step {step} would end at {P}, below its inlet at {inlet}; a pump raises the pressure. Let it down with a valve",
    "process.expander_pressure": "Step {step} would end at {P}, above its inlet at {inlet}; an expander lowers the pressure. Raise it with a compressor",
    "process.too_high": "Step {step} would end at {P}, higher than any state is computed for",
    "process.no_path": "Step {step}: the way to {P} was not found; look at its inlet and its efficiency",
    "process.power": "Step {step}: no outlet pressure takes up {power}; look at the power and the rate of what it takes",
    "process.stage_drop": "Step {step}: coolers that lose {drop} leave a stage nothing to raise; give fewer stages or a smaller loss",
    "process.stage_temperature": "Step {step}: its stages end at {there}, below the {T} they are to be cooled to; a cooler cannot heat",
    "process.discharge_hot": "Step {step} ends at {T}, above its limit of {limit}; take a lower ratio, stages or a colder inlet",
    "process.pump_vapour": "Step {step} sucks {share:.3g} mol% of vapour at {T} and {P}; a pump needs liquid",
    "process.suction_liquid": "Step {step} sucks {share:.3g} mol% of liquid at {T} and {P}; put a separator before it",
    "process.mixer_pressure": "Step {step} would mix at {P}, above the lowest of its streams at {lowest}",
    "process.drop": "Step {step} loses {drop} of {P}; nothing is left",
    "process.valve_pressure": "Step {step} would end at {P}, above its inlet at {inlet}; a valve lowers the pressure",
    "process.no_vapour_fraction": "Step {step}: there is no such share of vapour at {P}",
    "process.no_superheat": "Step {step}: there is no dew point at {P} to be above; give a temperature",
    "process.no_subcooling": "Step {step}: there is no bubble point at {P} to be below; give a temperature",
    "process.heater_wrong": "Step {step} would end at {T} and take {duty} from a stream that comes at {inlet}; a heater adds heat. Make it a cooler",
    "process.cooler_wrong": "Step {step} would end at {T} and add {duty} to a stream that comes at {inlet}; a cooler removes heat. Make it a heater",
    "process.exchanger_inlets": "Step {step}: the hot stream comes at {hot} and the cold one at {cold}; they cannot be {least} apart everywhere",
    "process.exchanger_hot_wrong": "Step {step}: the hot stream would leave at {T} and comes at {inlet}; it must leave colder",
    "process.exchanger_cold_wrong": "Step {step}: the cold stream would leave at {T} and comes at {inlet}; it must leave warmer",
    "process.crossing": "Step {step}: temperatures cross by {by} at {share:.3g} % of the duty, the hot stream at {hot} and the cold one at {cold}; ask for less duty or a larger least approach",
    "process.no_state": "Step {step}: no state of what it gives was found at {P}",
    "process.open": "The loop through {names} did not close in {rounds} rounds; look whether what it is asked can be met",
    "process.one_model": "All streams are computed with the model of {fluid}; {others} has another",
    "process.standard_liquid": "Standard liquid volumes are those of the components' liquids, summed; flashed ones are what is there after one flash to standard conditions",
    "process.loop": "The loop opened at {name} closed in {rounds} rounds to {residual:.1e} of its flow",
    "process.loop_duty": "The loop opened at the duty of {name} closed in {rounds} rounds to {residual:.1e}",
    "process.passed": "The stream {name} is {by} inside the {limit} limit",
    "process.passed_more": "The stream {name} is {by} inside the {limit} limit, and {others} more less deep",
    "state.boils": "{name} boils at {T} and {P}: they do not fix how much of it is vapour. Give one of them with a vapour fraction, an "
    "enthalpy or a density.",
    "state.line_ends": "The {fraction:line} runs from {low} to {high}.",
    "state.out_of_reach": "No state of this fluid at a {other} of {at} has the {what} {value}: it goes from {low} to {high} there.",
    "state.too_dense": "A density of {value} is above what this fluid can be packed to at {at}: {high} at the highest pressure.",
    "state.no_pair": "No state of this fluid has the given {conditions} at once.",
    "advice.heavy_cubic": "Heavy ends ({share:.3g} mol% boil above {T}): a cubic needs tuned critical constants or volume shifts for them.",
    "advice.polar_cubic": "{names}: hydrogen bonds; with one parameter a pair a cubic gives what stays in the liquid or what goes into the gas, not both.",
    "advice.water_cubic": "Water: its pairs have a second parameter in phases of water (of the gases and hydrocarbons dissolved in it), so that both the water "
    "phase and the gas come out; this is of PR78, PR76 and SRK with the library's parameters.",
    "advice.alpha_rises": "{names}: at {T} the equation's own alpha function rises with temperature, which is no physics; take the smooth one there.",
    "advice.cryogenic": "Down to {T}: low reduced temperatures, where the equation's own alpha function is 2 to 5 % off in vapour pressure; take the "
    "published ones.",
    "advice.vacuum": "Down to {P}: vapour pressures far below an atmosphere lean on the alpha function; take the published ones.",
    "advice.near_cubic": "Near the critical point a cubic's densities are some 10 % off, its phase boundaries less.",
    "advice.ideal_liquid": "Liquid can form in this range; an ideal gas has none.",
    "advice.ideal_times": "Volumes are up to {times:.3g} times too large at {P}, where it would be a liquid.",
    "advice.ideal_error": "Volumes are up to {percent:.3g} % off at {P}.",
    "advice.vdw": "Two constants for everything: critical compressibility 0.375, vapour pressures several times off. Good for understanding, not for "
    "answers.",
    "advice.rk_liquid": "Its attraction does not follow the acentric factor, so vapour pressures and phase splits are wrong but for simple fluids.",
    "advice.rk_gas": "Gas volumes within a few percent; the acentric factor plays no part.",
    "advice.srk": "Vapour pressures of hydrocarbons within 1 to 2 %, phase equilibria as good as its interaction parameters.",
    "advice.srk_density": "Liquids 10 to 20 % too light without a volume shift.",
    "advice.srk_hydrogen": "Much used for hydrogen-rich gases.",
    "advice.pr": "Made for reservoir fluids: vapour pressures within 1 to 2 %, liquid densities better than other cubics even before the shift.",
    "advice.carbon_dioxide": "Carbon dioxide ({share:.3g} mol%): well-tried interaction parameters with hydrocarbons.",
    "advice.older_heavy": "An acentric factor of {omega:.3g}: beyond 0.49 the form of 1976 drifts; the one of 1978 was made for it.",
    "advice.older_light": "Below an acentric factor of 0.49 the same as the form of 1978.",
    "advice.newer_heavy": "Its alpha function was drawn for heavy components.",
    "advice.saft": "Liquid densities within 1 to 2 % and heat capacities within 3 %; sound in liquids is some 10 % slow, as by a cubic.",
    "advice.saft_heavy": "Heavy ends ({share:.3g} mol%) are what a chain equation is made for.",
    "advice.saft_polar": "{names}: molecules that associate, which it does not describe without its association term.",
    "advice.bonds_polar": "{names}: hydrogen bonds are part of the equation, so that what stays in the liquid and what goes into gas and oil come out together.",
    "advice.bonds_water": "Water: one set of parameters gives the water in gas and oil and what dissolves in water, from {low} to {high}.",
    "advice.bonds_none": "Nothing here bonds: it is SRK.",
    "advice.bonds_slow": "Two to three times the computing of SRK.",
    "advice.saft_near": "Near the critical point: it overshoots critical temperatures by 1 to 3 % and pressures by 5 to 25 %.",
    "advice.saft_quantum": "Hydrogen or helium ({share:.3g} mol%): its parameters serve them as a dissolved gas only.",
    "advice.pure_fluid": "The reference equation of {name}: densities within 0.2 %, caloric properties within 1 to 2 %, the critical point as measured.",
    "advice.no_pure_fluid": "It is of one pure fluid that has one, and this is none.",
    "state.density_off": "Density of pure {name} at {T} and {P}: {ours} by {equation}, {theirs} by its reference equation ({off:+.1f} %).",
    "advice.saft_slow": "Ten times the computing of a cubic.",
    "roots.covolume": "There is no state at that volume: the least this fluid can have is {least:.4g} cm³/mol.",
    "roots.tension": "At that temperature and volume the equation gives {P}: a stretched liquid, not a state.",
    "roots.unshifted": "Volumes are the equation's own, without the volume shift.",
    "isotherms.measured": "Measured saturation by the auxiliary equations of {source}.",
    "isotherms.none": "No equation to draw isotherms by.",
    "state.heat_capacities": "Ideal-gas heat capacities are known from {low} to {high}; enthalpy and entropy go beyond.",
    "state.reference_ideal_gas": "Enthalpy and entropy are zero for the pure ideal gases at 298.15 K and 101325 Pa.",
    "state.reference_elements": "Enthalpy and Gibbs energy are zero for the elements at 298.15 K and 101325 Pa.",
    "state.reference_saturated_liquid": "Enthalpy and entropy are zero for the pure saturated liquids at {T}, of components without a liquid "
    "there for the ideal gas at it and 101325 Pa.",
    "saturation.none": "There is no bubble or dew point at {at} within the traced envelope.",
    "saturation.metastable": "The {fraction:name} point at {T} and {P} is metastable: another phase forms before it.",
    "envelope.no_volume_line": "No line of the vapour share {fraction:g} by volume begins at low pressure.",
    "frost.state": "Carbon dioxide is a solid at this state and comes out at {P}; the phases told leave it out.",
    "frost.state_below": "At {P} carbon dioxide freezes out below {T}: this state is colder, and the phases told leave the solid out.",
    "frost.states": "In {count} of {all} states, up to {warm}, carbon dioxide freezes out; the phases told leave the solid out.",
    "hydrate.free": "Free water is assumed beside the fluid.",
    "hydrate.own_water": "Hydrates form of the water that the fluid has, free or not.",
    "hydrate.brine": "The water holds {dose}, as the fluid's model says.",
    "hydrate.ideal": "An ideal gas has no liquid water that hydrates could form of; choose another equation for the fluid.",
    "hydrate.dry": "The fluid has no water, so there is nothing hydrates could form of; add water, or assume free water.",
    "hydrate.no_former": "No component forms a hydrate; of these {formers} are known.",
    "hydrate.unknown_formers": "{names} can enter cages as well, but no constants are known here: hydrates may form sooner than told.",
    "hydrate.none": "No hydrate forms there between {cold} and {hot}, up to {most}.",
    "hydrate.none_inhibited": "With {dose} no hydrate forms there between {cold} and {hot}, up to {most}.",
    "hydrate.some": "No hydrate forms at {count} of the values asked, from {first} to {last}.",
    "hydrate.again": "At {T} hydrates form between {first} and {last}, and again above {again}.",
    "hydrate.leaves": "At {T} hydrates form between {first} and {last}: what is compressed further leaves them again.",
    "hydrate.more_branches": "So it is at {count} more temperatures; the points tell each pressure.",
    "hydrate.water_alone": "The fluid is water alone, so there is nothing that could hold some of it; add a gas or an oil.",
    "hydrate.no_state": "The fluid's state was found at none of these temperatures and pressures.",
    "hydrate.some_states": "The fluid's state was not found at {count} of the temperatures and pressures asked.",
    "inhibitor.not_needed": "No inhibitor is needed there at {P}.",
    "inhibitor.no_state": "The fluid's state at {T} and {P} was not found.",
    "inhibitor.ice": "The dosed water itself freezes at {T}.",
    "inhibitor.brine": "The water's own {brine} is thinned by the dose: the dosed water holds {dosed}.",
    "inhibitor.typed": "{dose} is a share of the dosed water, dose and all.",
    "inhibitor.range": "Hydrates are known from {cold} to {hot} only; {T} at {P} lies beyond that.",
    "inhibitor.refused": "No dose was found that brings the limit of hydrates to {T} at {P}: with the one found they begin elsewhere.",
    "inhibitor.too_little": "Not even {most} wt% of {name}, as far as its activities are known, keeps hydrates away at {T} and {P}.",
    "inhibitor.no_rate": "What goes with vapour and condensate needs the rate of the fluid; give fluid_rate.",
    "path.dose": "The water holds {dose}.",
    "check.y_function_good": "The Y-function is a straight line from {low} to {high}.",
    "check.y_function_bad": "The Y-function bends: at {P} the relative volume is {off:.1f} % off its line. Check the points there, or the saturation pressure.",
    "check.expansion_break_good": "The volumes above {P} come to one at the saturation pressure.",
    "check.expansion_break_bad": "Continued from above, the relative volume at the saturation pressure of {P} is {off:+.2f} % off one: the volumes bend elsewhere.",
    "check.order_bad": "The column '{key}' turns back at {P}; it has one direction along the pressures. Check for exchanged or mistyped rows.",
    "check.closes_good": "The compositions add up to 100 %.",
    "check.closes_bad": "The composition of row {row} adds up to {total:.2f} %, not to 100 %.",
    "check.depletion_balance_good": "What the report says was drawn leaves a liquid that can be: no component runs out.",
    "check.depletion_balance_bad": "The report draws more {name} than there is: at {P} the liquid would have {off:.1f} % of the feed's amount of it less than none. Check gas compositions, amounts drawn and liquid volumes.",
    "check.two_phase_z_good": "Two-phase Z agrees with pressure, volume and what is left in the cell.",
    "check.two_phase_z_bad": "Two-phase Z at {P} is {off:+.1f} % off that of pressure, volume and what is left in the cell.",
    "check.hoffmann_crump_good": "The equilibrium ratios of {where} lie on one line.",
    "check.hoffmann_crump_bad": "The equilibrium ratios of {where} leave their line at {name}, by {off:+.0f} %: gas and liquid are not of one equilibrium, or one of the two analyses is off.",
    "check.recombination_good": "Gas, liquid and well stream agree with the gas-oil ratio of {given}.",
    "check.recombination_bad": "The well stream is gas and liquid of the separator at {own}, not at the reported {given} ({off:+.1f} %). With {own} they are reconciled.",
    "check.liberation_mass_good": "Densities, volume factors and gas of the liberation balance by mass.",
    "check.liberation_mass_bad": "At {P} the density is {off:+.1f} % off the mass of residue and gas: density, volume factor or gas of a step is off.",
    "check.separator_mass_good": "Tank oil and gas balance the mass of the feed.",
    "check.separator_mass_bad": "Tank oil and gas weigh as much as a feed of {own}, the report says {given} ({off:+.1f} %): density, gas-oil ratio or volume factor is off.",
    "match.unknown_component": "The fluid has no component '{name}'; there is {names}.",
    "match.no_such_key": "What is measured as '{key}' of {test} cannot be fitted: the test gives no such value.",
    "match.no_partner": "{count} values of '{key}' in {test} have no partner in the untuned model (another kind of saturation point, or a phase that is not there) and are left out.",
    "match.nothing_measured": "None of the tests has a measured value that the model gives; there is nothing to fit.",
    "match.no_heavy": "The fluid has no heavy ends to tune; name parameters of its components.",
    "match.nothing_moves": "None of the usual parameters moves the measured values; name others.",
    "match.too_few": "{points} measured values do not tell {parameters} parameters; leave parameters out, give them a prior width or enter more data.",
    "match.few": "{points} measured values are few for {parameters} parameters: what is found may fit the noise.",
    "match.at_bound": "The {parameter} ended at its bound of {value:.4g}: the data pull it further than it may go. Look for another cause before the bound is widened.",
    "match.correlated": "{one} and {other} do much the same ({share:.2f}): their values are not told apart by these data.",
    "match.moves_nothing": "{parameters} moves none of the measured values.",
    "match.scatter": "The residuals scatter {scatter:.1f} times as much as the uncertainties say: data contradict each other, or the model lacks something.",
    "match.proposed": "Proposed: {parameters}, each for what it takes off the deviations that the others cannot.",
    "match.weak": "Left out, since it hardly moves these data: {parameter}.",
    "match.alike": "Left out, since it moves the same data as {other} ({share:.2f} alike): {parameter}.",
    "match.enough": "Left out, since it would gain next to nothing beside the others: {parameter}.",
    "match.from_untuned": "The fit begins at the untuned fluid, whatever tuning it has now.",
    "match.trend_rises": "After the tuning {property} does not rise from {one} to {other} any more, as it does with molar mass.",
    "match.trend_falls": "After the tuning {property} does not fall from {one} to {other} any more, as it does with molar mass.",
    "match.envelope": "The envelope of the tuned fluid has no critical point any more, or none that could be traced; that of the untuned one has.",
    "match.second_liquid": "The tuned fluid has a second liquid at {count} of {of} states of the tests, which the untuned one has not.",
    "tuned.missing": "The tuning names components that are not in the fluid any more: {names}. Tune again, or drop it.",
    "tuned.stale": "What the tuning was made for has changed since: constants or amounts of its components are others. Tune again.",
    "tuned.applied": "The model is tuned: {count} parameters differ from those of the untuned fluid.",
    "lab.none_below": "None of the pressures lies below the saturation pressure of {P}; give lower ones.",
    "lab.no_residue": "The differential liberation leaves no oil at its temperature and 1 atm, so that there is no factor to correct to the separators. "
    "Ask at a lower temperature, or for an expansion and separators.",
    "lab.no_tank_oil": "The train gives no stock-tank oil; check its temperatures and pressures.",
    "black_oil.compressibility": "At {P} the total compressibility of the saturated oil is below zero; a simulator refuses that. Take fewer or other pressures there.",
    "black_oil.gas_compressibility": "At {P} the total compressibility of the saturated gas is below zero; a simulator refuses that. Take fewer or other pressures there.",
    "black_oil.no_gas": "Of the gas in {count} rows, from {P} down, nothing is gas in the end: all of it is oil in the tank, so that these rows have no oil in gas and no gas volume factor.",
    "black_oil.above": "Above saturation the {other} goes on with the composition it forms with.",
    "black_oil.order": "At {P} gas in solution, or the gas's volume factor, goes against pressure; a simulator refuses that.",
    "black_oil.branch": "The branch above {P} does not lose volume as pressure rises; a simulator refuses that.",
    "black_oil.crossing": "The branch above {P} crosses that of the pressure before it; a simulator refuses that.",
    "black_oil.corrected": "The tables are corrected to the train of separators.",
    "black_oil.plain": "The tables are of the differential liberation, by the residue at 60 °F; give stages to have them by stock-tank oil.",
    "black_oil.volatile": "The oil is volatile: its gas carries much oil, and the factors of its liberation are those of a test that parts the two. Hold the tables against a compositional model.",
    "lumping.nothing": "{count} components are no fewer than the {own} of the fluid; ask for fewer.",
    "lumping.joined": "Constants of joined components are means by mass, interaction parameters means by mole.",
    "black_oil.stages": "In {count} rows, from {P} down, stages above the row's own pressure (up to {stage}) are left out: nothing flows up to them.",
    "black_oil.single": "Each phase is flashed once to 60 °F and 1 atm; give stages to have it go through separators.",
    "optimum.at_end": "The best pressure of {P} stands at an end of the range; widen it.",
    "lab.no_saturation": "The fluid has no saturation point at {T}: it is one phase at every pressure there. Check the temperature of the test.",
    "lab.endless": "At {T} the fluid is of two liquids up to {P}; a test of it begins at no single phase.",
    "lab.no_oil": "At {T} the model has a dew point, at {P}: gas is liberated from oils, which have a bubble point. Check the temperature, or ask for a depletion.",
    "lab.all_gone": "At {T} and {P} nothing of the oil is left; end the test at a higher pressure or a lower temperature.",
    "lab.last_pressure": "The last step is at {P}; the residue is what is left there, not at the atmosphere's pressure.",
    "lab.no_liquid": "Stage {stage}, at {T} and {P}, has no liquid; there is no stock-tank oil to count by.",
    "lab.no_tank": "The last stage is at {P}; stock-tank oil is what leaves it, cooled to 60 °F at 1 atm without a further flash.",
    "lab.without_water": "The test is of the fluid without its water, as laboratories pour it off.",
    "lab.not_dissolved": "Some amounts of gas do not dissolve at any pressure.",
    "path.no_limit": "The fluid has no limit of this kind there: {limits}.",
    "path.passed_at": "The {limit} limit is passed by {by} at {at}.",
    "path.passed_between": "The {limit} limit is passed by {by} between {from} and {to}.",
    "path.no_state": "The state at {names} was not found.",
    "envelope.none": "No line of the envelope could be traced.",
}
"""The sentence of every code."""


@dataclass(frozen=True)
class Units:
    """The reader's units by kind of quantity: one of the starting sets, with what was chosen instead."""

    by_kind: Mapping[str, str]
    by_key: Mapping[str, str] = field(default_factory=dict)

    @classmethod
    def of(cls, name: str, **chosen: str | None) -> Units:
        """Return a starting set by its name, with the units ``chosen`` in place of its own."""
        field = name == "field"
        extra = {
            "kinematic_viscosity": "cSt",
            "molar_volume": "ft**3/lbmol" if field else "cm**3/mol",
            "gas_oil_ratio": "scf/bbl" if field else "sm3/m**3",
        }
        return cls({**extra, **SETS[name], **{k: v for k, v in chosen.items() if v}})

    def unit(self, kind: str) -> str:
        """Return the unit of a kind, that of SI where none was chosen."""
        return self.by_kind.get(kind) or KINDS[kind].si

    def with_keys(self, chosen: Mapping[str, str]) -> Units:
        """Return the same units with those ``chosen`` for single keys of answers."""
        return Units(self.by_kind, chosen)

    def of_value(self, path: str, kind: str) -> str:
        """Return the unit of the value at a path of an answer: the one chosen for its key, else that of its kind."""
        own = self.by_key.get(last_key(path), "")
        return own if own in KINDS[kind].units else self.unit(kind)

    def of_states(self) -> Units:
        """Return the same units with one for densities at a state, which nobody tells in °API."""
        if self.unit("density") != "degAPI":
            return self
        return Units({**self.by_kind, "density": "lb/ft**3"}, self.by_key)

    def number(self, measure: Measure) -> str:
        """Return a measure's number in the reader's unit."""
        value = from_si(measure.value, self.unit(measure.kind), measure.kind)
        if measure.digits is None:
            return format_number(value, 4)
        text = f"{value:.{measure.digits}f}"
        return text.lstrip("-") if not float(text) else text.replace("-", "−")

    def text(self, measure: Measure) -> str:
        """Return a measure as it is written, with its unit."""
        unit = self.unit(measure.kind)
        if measure.kind == "temperature_difference":
            unit = "°F" if unit in ("degF", "degR") else "K"
        return f"{self.number(measure)} {label(unit)}"

    def given(self, measure: Measure) -> str:
        """Return a measure that was typed, as :meth:`text` without the digits that nobody typed."""
        number, _, unit = self.text(measure).partition(" ")
        return f"{number.rstrip('0').rstrip('.') if '.' in number and 'e' not in number else number} {unit}".strip()


class _Writer(string.Formatter):
    """Writes the values of a remark."""

    def __init__(self, units: Units) -> None:
        self._units = units

    def format_field(self, value: Any, format_spec: str) -> str:
        if format_spec in ("line", "point", "name"):
            return _fraction(float(value), format_spec)
        if isinstance(value, Measure):
            return self._units.text(value)
        if isinstance(value, tuple):
            return self._list(value)
        if isinstance(value, float) and (not format_spec or not math.isfinite(value)):
            return format_number(value, 4)  # a dash where there is no number
        return str(format(value, format_spec))

    def _list(self, values: tuple[Value, ...]) -> str:
        ranges = [v for v in values if isinstance(v, tuple) and len(v) == 2]
        ends = [(a, b) for a, b in ranges if isinstance(a, Measure) and isinstance(b, Measure) and a.kind == b.kind]
        if ends and len(ends) == len(values):
            # Ranges: the unit stands once.
            return " and ".join(f"{self._units.number(a)} to {self._units.text(b)}" for a, b in ends)
        return ", ".join(self._item(v) for v in values)

    def _item(self, value: Value) -> str:
        if isinstance(value, Measure):
            return self._units.text(value)
        if isinstance(value, tuple):
            if len(value) == 3 and not isinstance(value[1], str):
                word, low, high = value
                ends = self._units.number(low) if isinstance(low, Measure) else f"{low:g}"
                return f"{self._item(word)} {ends} to {self._item(high)}"
            return " ".join(self._item(v) if not isinstance(v, float) else f"{v:.2f} %" for v in value)
        if isinstance(value, Word):
            return WORDS[value.code]
        return f"{value:g}" if isinstance(value, (int, float)) else value


def _fraction(value: float, spec: str) -> str:
    name = {0.0: "bubble", 1.0: "dew"}.get(value)
    if spec == "line":
        return f"{name} line" if name else f"line of vapour fraction {value:g}"
    if spec == "name":
        return name or f"vapour fraction {value:g}"
    return f"no {name} point" if name else f"no state of vapour fraction {value:g}"


def sentence(remark: Remark, units: Units) -> str:
    """Return a remark as a sentence in the reader's units."""
    writer = _Writer(units)
    values: dict[str, Any] = dict(remark.values)
    for key, value in remark.values.items():
        if isinstance(value, Word):
            values[key] = writer.vformat(WORDS[value.code], (), values)
    text = writer.vformat(SENTENCES[remark.code], (), values)
    return text[:1].upper() + text[1:]


def listed(values: tuple[Value, ...], units: Units) -> str:
    """Return values one after another in the reader's units."""
    return _Writer(units).format_field(values, "")
