"""One component: a pure species, a hand-made pseudo-component or a cut."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..constants import T_60F, WATER_DENSITY_60F, R
from ..errors import DomainError

Kind = Literal["pure", "pseudo", "cut"]


@dataclass(frozen=True)
class Component:
    """Constants of one component in SI units.

    ``molar_mass`` kg/mol, ``Tc`` K, ``Pc`` Pa, ``Vc`` m3/mol, ``nbp`` K, ``specific_gravity`` 60/60 degF, ``cp`` of
    the ideal gas, J/(mol K), its rigid part and oscillators (:mod:`.ideal_gas`). ``estimates`` says in sentences what
    was not given but estimated. ``parachor`` in (mN/m)^(1/4) cm3/mol where known; ``omega_matched`` marks an acentric
    factor that was fitted to the boiling point, so that it is fitted anew for another equation of state. ``key`` is
    what a made one is known by (sample and cut, or part), which stays when names, boundaries and widths change.
    ``formation`` is enthalpy and Gibbs energy of formation as an ideal gas at 298.15 K, J/mol, where known.
    ``pc_saft`` are segment number, diameter in angstrom and energy in K where given by hand. ``omegas`` are the
    constants Omega_a and Omega_b of a cubic equation where they are the component's own."""

    name: str
    kind: Kind
    molar_mass: float
    Tc: float
    Pc: float
    Vc: float
    omega: float
    nbp: float
    specific_gravity: float
    cp: tuple[float, ...]
    formula: str = ""
    cas: str = ""
    aliases: tuple[str, ...] = ()
    family: str = ""
    estimates: tuple[str, ...] = ()
    parachor: float | None = None
    omega_matched: bool = False
    key: str = ""
    formation: tuple[float, float] | None = None
    pc_saft: tuple[float, float, float] | None = None
    omegas: tuple[float, float] | None = None

    @property
    def identity(self) -> str:
        """What the component is known by, whatever it is called: its key, of a pure one its name in the databank."""
        return self.key or self.name

    @property
    def watson_k(self) -> float:
        """Watson characterization factor, (1.8 nbp)^(1/3) / SG. Watson and Nelson (1933)."""
        return float((1.8 * self.nbp) ** (1.0 / 3.0) / self.specific_gravity)

    @property
    def standard_liquid_volume(self) -> float:
        """Volume of a mole as a liquid at 60 degF, m3/mol; the apparent one for gases."""
        return self.molar_mass / (self.specific_gravity * WATER_DENSITY_60F)

    @property
    def rackett(self) -> float:
        """Rackett parameter Z_RA.

        From the density at 60 degF by Spencer and Danner, J. Chem. Eng. Data 17, 236 (1972), where the species is
        a liquid well below its critical temperature, else 0.29056 - 0.08775 omega of Yamada and Gunn, J. Chem.
        Eng. Data 18, 234 (1973).
        """
        if self.Tc * 0.95 <= T_60F or (self.family == "inorganic" and self.nbp > 0 and self.Tc < 400.0):
            return 0.29056 - 0.08775 * self.omega
        exponent = 1.0 + (1.0 - T_60F / self.Tc) ** (2.0 / 7.0)
        return float((self.standard_liquid_volume * self.Pc / (R * self.Tc)) ** (1.0 / exponent))

    @property
    def critical_compressibility(self) -> float:
        """Zc = Pc Vc / (R Tc)."""
        return self.Pc * self.Vc / (R * self.Tc)

    def saturated_liquid_density(self, T: float) -> float:
        """Density of the saturated liquid at T K below Tc, kg/m3; Spencer and Danner (1972)."""
        if self.Tc <= T:
            raise DomainError(f"{self.name} has no liquid at {T} K; its critical temperature is {self.Tc} K")
        exponent = 1.0 + (1.0 - T / self.Tc) ** (2.0 / 7.0)
        return float(self.molar_mass * self.Pc / (R * self.Tc * self.rackett**exponent))
