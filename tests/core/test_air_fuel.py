"""Air and fuel against published tables and a combustion library."""

import math

import cantera
from django.test import SimpleTestCase
from fluids.atmosphere import ATMOSPHERE_1976
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.air import air_per_chamber_g, standard_pressure_kpa
from inbetrieb_core.errors import OutOfRangeError
from inbetrieb_core.fuel import (
    Fuel,
    ethanol_vapour_pressure_kpa,
    stoichiometric_afr_from_atoms,
    vaporised_share,
)

# ISO 2533:1975 / ICAO Doc 7488, geopotential altitude [m]: pressure [kPa] (memory).
ISO_2533 = [(0, 101.325), (1000, 89.8746), (2000, 79.4952), (5000, 54.0199)]


class StandardPressureTests(SimpleTestCase):
    def test_matches_the_published_table(self):
        for altitude, published in ISO_2533:
            with self.subTest(altitude=altitude):
                # The rounded constants of the closed form agree to about 2 parts in 10 000.
                self.assertAlmostEqual(standard_pressure_kpa(altitude) / published, 1.0, delta=2e-4)

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
        # 1.2041 kg/m³ at 101.325 kPa and 20 °C (handbook value, memory): one litre, 100 %.
        self.assertAlmostEqual(air_per_chamber_g(100.0, 101.325, 1.0, 293.15), 1.2041, delta=2e-4)

    def test_refuses_an_impossible_temperature(self):
        with self.assertRaises(OutOfRangeError):
            air_per_chamber_g(100.0, 100.0, 1.0, 0.0)


def cantera_afr(molecule: str) -> float:
    """Return the mass air–fuel ratio of a molecule by cantera, air as O2 + 3.76 N2."""
    wanted = {molecule, "O2", "N2", "CO2", "H2O"}
    species = [s for s in cantera.Species.list_from_file("nasa_gas.yaml") if s.name in wanted]
    gas = cantera.Solution(thermo="ideal-gas", species=species)
    return gas.stoich_air_fuel_ratio({molecule: 1.0}, {"O2": 1.0, "N2": 3.76})


class StoichiometryTests(SimpleTestCase):
    def test_atom_balance_matches_a_combustion_library(self):
        # cantera 3.2.0 with its NASA species: isooctane, ethanol, toluene, methane.
        for molecule, atoms in {
            "C8H18,isooctane": (8, 18, 0),
            "C2H5OH": (2, 6, 1),
            "C7H8": (7, 8, 0),
            "CH4": (1, 4, 0),
        }.items():
            with self.subTest(molecule=molecule):
                ours = stoichiometric_afr_from_atoms(*atoms)
                # 0.2314 against 3.76 N2 per O2: air compositions differ by half a percent.
                self.assertAlmostEqual(ours / cantera_afr(molecule), 1.0, delta=0.008)

    def test_ethanol_of_the_trade_matches_its_atoms(self):
        self.assertAlmostEqual(stoichiometric_afr_from_atoms(2, 6, 1), 9.0, delta=0.05)

    def test_petrol_of_the_trade_matches_a_usual_composition(self):
        # CH1.87: usual mean composition of petrol (Heywood, table D.4, memory).
        self.assertAlmostEqual(stoichiometric_afr_from_atoms(1, 1.87), 14.7, delta=0.15)

    def test_refuses_what_does_not_burn(self):
        for atoms in ((0, 0, 1), (1, 0, 2), (-1, 4, 0)):
            with self.subTest(atoms=atoms), self.assertRaises(OutOfRangeError):
                stoichiometric_afr_from_atoms(*atoms)

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
    def test_ethanol_boils_where_it_should(self):
        # Normal boiling point of ethanol 78.37 °C (CRC Handbook, memory).
        self.assertAlmostEqual(ethanol_vapour_pressure_kpa(78.37), 101.325, delta=1.0)
        # 5.95 kPa at 20 °C (CRC Handbook, memory).
        self.assertAlmostEqual(ethanol_vapour_pressure_kpa(20.0), 5.9, delta=0.15)

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
