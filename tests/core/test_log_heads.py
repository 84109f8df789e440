"""Heads of logs as people and loggers write them: five languages, abbreviations, both orders.

The list was written for this test from the usage of the trade in five languages (common practice,
no source), before it was run; it holds no file of any product.
"""

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.logs.columns import Column
from inbetrieb_core.logs.mapping import propose, split_unit
from inbetrieb_core.logs.questions import questions_of

#: What a column of each channel may hold, in the unit of the head where it states none.
SIZES = {
    "time_s": (0, 40), "rpm": (0, 1400), "map_kpa": (30, 100), "coolant_c": (5, 60), "intake_c": (8, 22),
    "throttle_pct": (0, 9), "lambda": (0.86, 1.1), "lambda_target": (0.95, 1.0), "pulse_ms": (2, 9),
    "battery_v": (10, 14), "idle_valve_pct": (30, 60), "spark_deg": (5, 22), "fuel_pressure_kpa": (290, 305),
    "lambda_correction_pct": (-6, 6), "sync": (0, 1), "idle_target_rpm": (850, 1100), "speed_kmh": (0, 40),
    "ambient_c": (8, 9), "oil_c": (5, 50), "oil_pressure_kpa": (100, 400), "exhaust_c": (20, 500),
    "barometric_kpa": (99, 101),
}  # fmt: skip

#: One head in each line, and what it is; a dash is no channel of ours.
SINGLE = """
Time (s) = time_s
Zeit [s] = time_s
Temps (s) = time_s
Tiempo [s] = time_s
Tempo (s) = time_s
Zeitstempel = time_s
RPM = rpm
Engine Speed (rpm) = rpm
Drehzahl [1/min] = rpm
Motordrehzahl [U/min] = rpm
Régime moteur (tr/min) = rpm
Régimen motor [rpm] = rpm
Giri motore [giri/min] = rpm
Regime motore (rpm) = rpm
Vitesse moteur [tr/min] = rpm
Numero di giri = rpm
nMot = rpm
EngSpd = rpm
engine_speed_rpm = rpm
Drehzahl Ist [1/min] = rpm
Actual RPM = rpm
MAP (kPa) = map_kpa
Manifold Pressure [kPa] = map_kpa
Saugrohrdruck [mbar] = map_kpa
Pression tubulure [kPa] = map_kpa
Pression collecteur admission (kPa) = map_kpa
Presión colector [kPa] = map_kpa
Pressione collettore [kPa] = map_kpa
Pressione aspirazione (kPa) = map_kpa
MAP actual [kPa] = map_kpa
Saugrohrdruck Ist [kPa] = map_kpa
p_saug [kPa] = map_kpa
CLT (°C) = coolant_c
ECT [°C] = coolant_c
Coolant temp [C] = coolant_c
Kühlmitteltemperatur [°C] = coolant_c
Wassertemperatur = coolant_c
Température eau [°C] = coolant_c
Temp. liquide refroidissement (°C) = coolant_c
Temperatura refrigerante [°C] = coolant_c
Temperatura agua (°C) = coolant_c
Temperatura acqua [°C] = coolant_c
Temp motore (°C) = coolant_c
Coolant measured [°C] = coolant_c
tMot [°C] = coolant_c
IAT (°C) = intake_c
Intake Air Temp [°C] = intake_c
Ansauglufttemperatur [°C] = intake_c
Température air admission [°C] = intake_c
Temp. admission (°C) = intake_c
Temperatura aire admisión [°C] = intake_c
Temperatura aria aspirata [°C] = intake_c
Temp aria (°C) = intake_c
Air charge temperature [°C] = intake_c
MAT (°C) = intake_c
TPS (%) = throttle_pct
Throttle Position [%] = throttle_pct
Drosselklappe [%] = throttle_pct
Position papillon (%) = throttle_pct
Mariposa [%] = throttle_pct
Apertura farfalla [%] = throttle_pct
Posizione farfalla (%) = throttle_pct
Throttle actual (%) = throttle_pct
Drosselklappe Ist [%] = throttle_pct
Lambda = lambda
AFR = lambda
A/F ratio = lambda
A/F = lambda
Air/Fuel Ratio = lambda
Lambda Ist = lambda
λ Ist = lambda
Istlambda = lambda
LambdaIst = lambda
AFR act = lambda
AFR_meas = lambda
Lambda act. = lambda
lam_act = lambda
lambda_ist = lambda
Measured AFR = lambda
Wideband O2 = lambda
Luftverhältnis = lambda
Lambda mesuré = lambda
Lambda réel = lambda
Rapport air/carburant mesuré = lambda
Lambda medida = lambda
Relación aire/combustible = lambda
Lambda misurata = lambda
Lambda effettivo = lambda
Rapporto aria/carburante = lambda
Sonda lambda = lambda
WB Lambda = lambda
Actual A/F Ratio = lambda
Lambda feedback = lambda
Lambda Soll = lambda_target
Soll-Lambda = lambda_target
Lambdasoll = lambda_target
λ Soll = lambda_target
LambdaSollwert = lambda_target
Lambda Ziel = lambda_target
AFR tgt = lambda_target
AFRTarget = lambda_target
Target AFR = lambda_target
afr_cmd = lambda_target
AFR set = lambda_target
A/F ratio target = lambda_target
Commanded A/F = lambda_target
Desired Lambda = lambda_target
lam_des = lambda_target
Lambda SP = lambda_target
Lambda req = lambda_target
Lambda demand = lambda_target
Lambda setpt = lambda_target
Lambda cible = lambda_target
Consigne lambda = lambda_target
Consigne de richesse lambda = lambda_target
Lambda visé = lambda_target
Lambda objetivo = lambda_target
Consigna lambda = lambda_target
Lambda deseada = lambda_target
Lambda obiettivo = lambda_target
Lambda richiesto = lambda_target
Luftverhältnis Soll = lambda_target
PW (ms) = pulse_ms
Pulse width [ms] = pulse_ms
Einspritzzeit [ms] = pulse_ms
Temps d'injection (ms) = pulse_ms
Tiempo de inyección [ms] = pulse_ms
Tempo iniezione [ms] = pulse_ms
Inj Duration (ms) = pulse_ms
ti [ms] = pulse_ms
Battery (V) = battery_v
VBat [V] = battery_v
Batteriespannung [V] = battery_v
Tension batterie (V) = battery_v
Voltaje batería [V] = battery_v
Tensione batteria [V] = battery_v
Klemme 30 [V] = battery_v
IAC Duty (%) = idle_valve_pct
Idle valve [%] = idle_valve_pct
Leerlaufsteller [%] = idle_valve_pct
Vanne de ralenti (%) = idle_valve_pct
Válvula de ralentí [%] = idle_valve_pct
Valvola del minimo [%] = idle_valve_pct
IAC position = idle_valve_pct
Idle valve command [%] = idle_valve_pct
Zündwinkel [°KW] = spark_deg
Ignition Advance (deg) = spark_deg
Avance allumage (°) = spark_deg
Avance de encendido [°] = spark_deg
Anticipo accensione [°] = spark_deg
Spark command [deg] = spark_deg
Fuel Pressure (kPa) = fuel_pressure_kpa
Kraftstoffdruck [bar] = fuel_pressure_kpa
Pression carburant [kPa] = fuel_pressure_kpa
Presión combustible [kPa] = fuel_pressure_kpa
Pressione benzina [bar] = fuel_pressure_kpa
Rail pressure [bar] = fuel_pressure_kpa
Lambdakorrektur [%] = lambda_correction_pct
STFT (%) = lambda_correction_pct
Correction de richesse (%) = lambda_correction_pct
Corrección lambda [%] = lambda_correction_pct
Correzione miscela (%) = lambda_correction_pct
EGO cor (%) = lambda_correction_pct
Closed loop trim [%] = lambda_correction_pct
Synchron [-] = sync
Sync = sync
Idle target [rpm] = idle_target_rpm
Target idle (rpm) = idle_target_rpm
Leerlaufsolldrehzahl [1/min] = idle_target_rpm
Leerlaufdrehzahl Soll [1/min] = idle_target_rpm
Leerlauf Soll [1/min] = idle_target_rpm
Ralenti consigne [tr/min] = idle_target_rpm
Consigne ralenti (tr/min) = idle_target_rpm
Ralentí objetivo [rpm] = idle_target_rpm
Minimo obiettivo [giri/min] = idle_target_rpm
Idle RPM cmd = idle_target_rpm
Idle speed setpoint = idle_target_rpm
Desired idle speed = idle_target_rpm
Vehicle speed [km/h] = speed_kmh
Fahrgeschwindigkeit [km/h] = speed_kmh
Vitesse véhicule (km/h) = speed_kmh
Velocidad vehículo [km/h] = speed_kmh
Außentemperatur [°C] = ambient_c
Oil temp [°C] = oil_c
Öltemperatur [°C] = oil_c
Température huile [°C] = oil_c
Oil pressure [kPa] = oil_pressure_kpa
Abgastemperatur [°C] = exhaust_c
EGT [°C] = exhaust_c
Barometric pressure [kPa] = barometric_kpa
Luftdruck [kPa] = barometric_kpa
act = -
Act. = -
Ist = -
Soll = -
Throttle target (%) = -
Drosselklappe Soll [%] = -
Throttle cmd (%) = -
Papillon consigne (%) = -
MAP target [kPa] = -
Ladedruck Soll [kPa] = boost_target_kpa
Boost target [kPa] = boost_target_kpa
Fuel pressure target [kPa] = -
Coolant temp target [°C] = -
Lambda error = -
Lambda Abweichung = -
AFR error = -
Idle error [rpm] = -
Rev limit [rpm] = -
Lambda min = -
RPM rate [rpm/s] = -
Drehzahlgrenze [1/min] = -
TPS dot = -
MAP ADC = -
Warm-up enrichment [%] = -
Nachstartanreicherung [%] = -
"""

#: Pairs of one file: measured and asked for. Each is tried in both orders.
PAIRS = """
Lambda | Lambda Soll
Lambda Ist | Lambda Soll
Lambda | Lambda Target
AFR | AFR Target
AFR | Target AFR
AFR act | AFR set
AFR act | AFR tgt
AFR meas | AFR cmd
Actual AFR | Commanded AFR
A/F ratio | A/F ratio target
A/F | A/F cmd
Istlambda | Solllambda
λ Ist | λ Soll
Lambda 1 | Lambda SP
Wideband | AFR tgt
Lambda mesuré | Lambda cible
Lambda mesuré | Consigne lambda
Lambda réelle | Lambda demandée
Lambda medida | Lambda objetivo
Lambda real | Consigna lambda
Lambda misurata | Lambda obiettivo
Lambda letta | Lambda richiesta
lam | lam des
Luftverhältnis Ist | Luftverhältnis Soll
Sonda lambda | Lambda deseada
Lambda sensor | Lambda setpoint
O2 | AFR desired
Lambda ist | Lambda ziel
"""


def column(number, header, channel):
    """Return a column whose cells have the size of the channel it really is."""
    name, unit = split_unit(header)
    low, high = SIZES.get(channel, (0, 30))
    sample = np.random.default_rng(number).uniform(low, high, 60)
    if "mbar" in header:
        sample = sample * 10
    if header.endswith("[bar]"):
        sample = sample / 100
    if channel in ("lambda", "lambda_target") and ("AF" in header or "A/F" in header):
        sample = sample * 14.7
    return Column(number, header, name, unit, np.sort(sample) if channel == "time_s" else sample)


class HeadTests(SimpleTestCase):
    def test_every_head_alone(self):
        lines = [line.rsplit(" = ", 1) for line in SINGLE.strip().splitlines()]
        self.assertGreaterEqual(len(lines) + 2 * len(PAIRS.strip().splitlines()), 200)
        wrong = []
        for header, channel in lines:
            use = propose([column(0, header, channel)])[0]
            if use.channel != (None if channel == "-" else channel):
                wrong.append(f"{header}: read as {use.channel}, is {channel}")
        self.assertEqual(wrong, [])

    def test_measured_and_asked_for_in_both_orders(self):
        wrong = []
        for line in PAIRS.strip().splitlines():
            measured, target = line.split(" | ")
            pair = [column(0, measured, "lambda"), column(1, target, "lambda_target")]
            for columns in (pair, pair[::-1]):
                found = {use.column.header: use.channel for use in propose(columns)}
                if found != {measured: "lambda", target: "lambda_target"}:
                    wrong.append(f"{line}: {found}")
        self.assertEqual(wrong, [])

    def test_a_reading_that_is_not_certain_is_asked(self):
        for headers in (("Lambda A", "Lambda B"), ("AFR", "Lambda"), ("Wideband", "Lambda")):
            columns = [column(i, header, "lambda") for i, header in enumerate(headers)]
            questions = questions_of(columns, propose(columns))
            self.assertEqual(len(questions), 1, headers)
            self.assertGreaterEqual(len(questions[0].choices), 2)
            for choice in questions[0].choices:
                self.assertTrue(set(choice.mapping) <= set(headers))
        for header in ("Solldrehzahl [1/min]", "ACT [°C]"):
            columns = [column(0, "Drehzahl [1/min]", "rpm"), column(1, header, "idle_target_rpm")]
            self.assertEqual(len(questions_of(columns, propose(columns))), 1, header)

    def test_two_columns_of_the_same_numbers_are_not_asked(self):
        first = column(0, "Lambda", "lambda")
        second = Column(1, "AFR", "AFR", "", first.sample * 14.7)
        columns = [first, second]
        self.assertEqual(questions_of(columns, propose(columns)), ())
