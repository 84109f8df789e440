"""Air and fuel against published tables and a combustion library."""

import math

import cantera
from CoolProp.CoolProp import PropsSI
from django.test import SimpleTestCase
from fluids.atmosphere import ATMOSPHERE_1976
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.air import air_per_chamber_g, standard_pressure_kpa
from inbetrieb_core.errors import OutOfRangeError
from inbetrieb_core.fuel import (
    ETHANOL_AFR,
    PETROL_AFR,
    Fuel,
    ethanol_vapour_pressure_kpa,
    vaporised_share,
)


class StandardPressureTests(SimpleTestCase):
    def test_matches_a_reference_library(self):
        # fluids 1.3.1, US Standard Atmosphere 1976, takes geometric altitude.
        earth = 6_356_766.0
        for geopotential in range(0, 5001, 500):
            geometric = earth * geopotential / (earth - geopotential)
            reference = ATMOSPHERE_1976(geometric).P / 1000.0
            self.assertAlmostEqual(standard_pressure_kpa(geopotential) / reference, 1.0, delta=2e-4)

    def test_refuses_out_of_range(self):
        for altitude in (-501.0, 11_001.0, math.nan, math.inf):
            with self.subTest(altitude=altitude), self.assertRaises(OutOfRangeError):
                standard_pressure_kpa(altitude)


class AirPerChamberTests(SimpleTestCase):
    def test_density_of_dry_air(self):
        """CoolProp 8.0.0, air after Lemmon et al. (2000); an ideal gas is within 0.1 % of it."""
        for kpa, kelvin in ((101.325, 293.15), (35.0, 330.0), (180.0, 320.0), (100.0, 253.15)):
            with self.subTest(kpa=kpa, kelvin=kelvin):
                density = PropsSI("D", "T", kelvin, "P", 1000.0 * kpa, "Air")
                ours = air_per_chamber_g(100.0, kpa, 1.0, kelvin)
                self.assertAlmostEqual(ours / density, 1.0, delta=1.5e-3)

    def test_refuses_an_impossible_temperature(self):
        with self.assertRaises(OutOfRangeError):
            air_per_chamber_g(100.0, 100.0, 1.0, 0.0)


def cantera_afr(*molecules: str, shares=(1.0,)) -> float:
    """Return the mass air–fuel ratio of a fuel by cantera, air as O2 + 3.76 N2; mole shares."""
    wanted = {*molecules, "O2", "N2", "CO2", "H2O"}
    species = [s for s in cantera.Species.list_from_file("nasa_gas.yaml") if s.name in wanted]
    gas = cantera.Solution(thermo="ideal-gas", species=species)
    fuel = dict(zip(molecules, shares, strict=True))
    return gas.stoich_air_fuel_ratio(fuel, {"O2": 1.0, "N2": 3.76})


class StoichiometryTests(SimpleTestCase):
    def test_ethanol_of_the_trade_matches_a_combustion_library(self):
        self.assertAlmostEqual(ETHANOL_AFR / cantera_afr("C2H5OH"), 1.0, delta=0.008)

    def test_petrol_of_the_trade_matches_its_surrogate(self):
        """Isooctane and toluene at two moles to one have the hydrogen of pump petrol, CH1.9."""
        surrogate = cantera_afr("C8H18,isooctane", "C7H8", shares=(2.0, 1.0))
        self.assertAlmostEqual(PETROL_AFR / surrogate, 1.0, delta=0.015)

    def test_blends_of_the_pump(self):
        # E10 14.1 and E85 9.8: common practice, no source.
        self.assertAlmostEqual(Fuel(0.10).stoichiometric_afr, 14.1, delta=0.05)
        self.assertAlmostEqual(Fuel(0.85).stoichiometric_afr, 9.8, delta=0.05)

    @given(st.floats(0.0, 1.0))
    def test_a_blend_lies_between_its_parts(self, share):
        fuel = Fuel(share)
        self.assertTrue(9.0 - 1e-9 <= fuel.stoichiometric_afr <= 14.7 + 1e-9)
        self.assertTrue(745.0 - 1e-9 <= fuel.density_kg_m3 <= 789.0 + 1e-9)
        # Air demand is additive by mass: burning the parts apart needs the same air.
        ethanol = fuel.ethanol_mass_share
        self.assertAlmostEqual(fuel.stoichiometric_afr, 9.0 * ethanol + 14.7 * (1 - ethanol))

    def test_refuses_an_impossible_share(self):
        for share in (-0.1, 1.1, math.nan):
            with self.subTest(share=share), self.assertRaises(OutOfRangeError):
                Fuel(share)


class VapourTests(SimpleTestCase):
    def test_vapour_pressure_of_ethanol_matches_a_reference_library(self):
        """CoolProp 8.0.0, ethanol after Schroeder et al. (2014), from frost to boiling."""
        for celsius in (-10.0, 0.0, 20.0, 40.0, 60.0, 78.4):
            with self.subTest(celsius=celsius):
                reference = PropsSI("P", "T", celsius + 273.15, "Q", 0, "Ethanol") / 1000.0
                ours = ethanol_vapour_pressure_kpa(celsius)
                # three constants over 90 K: within 4 %, the worst where little vapour is
                self.assertAlmostEqual(ours / reference, 1.0, delta=0.04)

    @given(st.floats(0.0, 1.0), st.floats(-40.0, 110.0), st.booleans())
    def test_share_is_a_share_and_grows_with_temperature(self, ethanol, temperature, wet):
        fuel = Fuel(ethanol)
        cold = vaporised_share(fuel, temperature, wet)
        warm = vaporised_share(fuel, temperature + 5.0, wet)
        self.assertTrue(0.0 < cold <= warm + 1e-12 <= 1.0 + 1e-9)

    def test_cold_ethanol_and_wet_walls_vaporise_less(self):
        self.assertLess(
            vaporised_share(Fuel(0.85), 0.0, False), vaporised_share(Fuel(0.0), 0.0, False)
        )
        self.assertLess(
            vaporised_share(Fuel(0.0), 10.0, True), vaporised_share(Fuel(0.0), 10.0, False)
        )
