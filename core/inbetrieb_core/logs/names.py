"""Which words name which channel. General terms of the field in several languages."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class ChannelName:
    """A canonical channel and how logs call it.

    Attributes
    ----------
    channel : str
        Canonical name; its suffix is its unit.
    title : str
        Wording on the screen.
    dimension : str
        Dimension of its unit in :mod:`inbetrieb_core.quantities`; empty for none.
    unit : str
        Canonical unit in the table of units; empty for none.
    spellings : tuple of str
        Normalised names, most usual first: lower case, words parted by one space.
    """

    channel: str
    title: str
    dimension: str
    unit: str
    spellings: tuple[str, ...]


#: Channel, wording, dimension, canonical unit, and its spellings parted by a bar.
_NAMES: tuple[tuple[str, str, str, str, str], ...] = (
    (
        "time_s", "Time", "time", "s",
        "uhr | time | t | timestamp | time stamp | elapsed time | elapsed | zeit | seconds | log "
        "time | zeitstempel | sekunden | temps | tiempo | tempo | clock | uhrzeit | millis "
        "| milliseconds | time of day | record time | date time | datetime"
        " | temps ecoule | tiempo transcurrido | tempo trascorso | zeit s | laufzeit"
        " | messzeit | log zeit | hora | heure | ora | timestamp s | t s | sec | secs"
        " | zeitpunkt",
    ),
    (
        "rpm", "Engine speed", "speed_of_rotation", "rpm",
        "rpm engine | tr min | rpm | engine speed | engine rpm | speed rpm | drehzahl | "
        "motordrehzahl | n | engine revs | revs | n mot | nmot | eng spd | engine spd | "
        "engspeed | u min | regime moteur | regime | giri motore | giri | crank speed | "
        "motor speed | eng speed | engine revolutions | rev min | crankshaft speed | engine "
        "n"
        " | regimen | regimen motor | revoluciones | vueltas | velocidad motor"
        " | vitesse moteur | tours minute | tours moteur | rotation moteur | numero di giri"
        " | regime di rotazione | velocita motore | giri al minuto | rpm motor | umdrehungen"
        " | motor drehzahl | kurbelwellendrehzahl | n engine | eng rpm | tr mn | giri min"
        " | u min motor | crank rpm",
    ),
    (
        "map_kpa", "Manifold pressure", "pressure", "kPa",
        "boost abs | boost absolute | pression admission | pression collecteur | map | manifold pressure | manifold "
        "absolute pressure | intake manifold pressure | manifold | saugrohrdruck | manifold "
        "air pressure | ladedruck absolut | intake pressure | inlet manifold pressure | man "
        "press | map sensor | p manifold | p saug | manifold abs | inlet pressure | "
        "saugdruck | map pressure | manifold press"
        " | pression tubulure | pression tubulure admission | pression collecteur admission"
        " | pression air admission | presion colector | presion admision"
        " | presion de admision | presion colector admision | pressione collettore"
        " | pressione aspirazione | pressione di aspirazione"
        " | pressione collettore aspirazione | saugrohr druck | ansaugdruck"
        " | absolutdruck saugrohr | mani press | p man | pman | p im | p intake"
        " | manifold air press | mapabs",
    ),
    (
        "coolant_c", "Coolant temperature", "temperature", "degC",
        "water | engine | motor temp | temperature eau | kwt | temperature liquide | engine water temp | temp liquide | "
        "coolant | coolant temperature | coolant temp | clt | ect | engine coolant "
        "temperature | engine temp | engine temperature | water temp | water temperature | "
        "kuhlmittel | kuhlmitteltemperatur | wassertemperatur | motortemperatur | t coolant "
        "| t water | cts | engine coolant temp | kuhlwasser | kuhlwassertemperatur | temp "
        "eau | t mot | cool temp | temperatura agua | temperatura acqua | ctemp | eng temp "
        "| tmot | coolant t | kmt"
        " | temperature moteur | temp moteur | eau moteur | temperature eau moteur"
        " | temp eau moteur | liquide refroidissement | temperature liquide refroidissement"
        " | t eau | temperatura motor | temp motor | temp agua | temperatura refrigerante"
        " | temp refrigerante | refrigerante | temperatura liquido refrigerante"
        " | temperatura motore | temp motore | temp acqua"
        " | temperatura liquido raffreddamento | t acqua | t agua | wasser temp"
        " | kuhlmittel temp | kuhlmittel temperatur | motor temperatur | eng clt | t clt"
        " | t cool | t eng | coolant deg | wtemp | watertemp | w temp | cool t | ect sensor"
        " | temp h 2 o | h 2 o | wasser | eau | agua | acqua",
    ),
    (
        "intake_c", "Intake air temperature", "temperature", "degC",
        "temperature air | temp air | temperature admission | iat | intake air temperature "
        "| intake air temp | intake air | air temp | mat | intake temperature | intake temp "
        "| manifold air temperature | charge temperature | charge temp | "
        "ansauglufttemperatur | ansaugluft | ladelufttemperatur | inlet air temp | air "
        "temperature | inlet temp | manifold air temp | lufttemperatur | t air | ats"
        " | air intake temp | temp admission | temperature air admission | temp air admission"
        " | t air admission | t adm | temperatura admision | temp admision | temperatura aire"
        " | temp aire | temperatura aire admision | temp aire admision"
        " | temperatura aspirazione | temp aspirazione | temperatura aria | temp aria"
        " | temperatura aria aspirata | temp aria aspirata | t aria | t aire | ansaug temp"
        " | luft temp | t ansaug | tans | t luft | air charge temp | air charge temperature"
        " | t intake | t iat | inlet air temperature | air inlet temp | charge air temp"
        " | charge air temperature",
    ),
    (
        "throttle_pct", "Throttle", "share", "percent",
        "throttle plate position | pedal position | acelerador | farfalla | throttle | tps "
        "| throttle position | throttle pos | drosselklappe | throttle angle | "
        "drosselklappenwinkel | tp | throttle opening | dk | throttle plate | papillon"
        " | position papillon | pos papillon | ouverture papillon | angle papillon | mariposa"
        " | posicion mariposa | apertura mariposa | posizione farfalla | pos farfalla"
        " | apertura farfalla | angolo farfalla | acceleratore | accelerateur | pedale"
        " | pedal | gaspedal | fahrpedal | fahrpedalstellung | drossel"
        " | drosselklappenstellung | dk winkel | alpha | th pos | thr | thr pos | throt"
        " | tpos | tps 1 | acc pedal",
    ),
    (
        "lambda", "Lambda", "mixture", "lambda",
        "lambda | afr | air fuel ratio | wideband | lambda 1 | afr 1 | wideband lambda | "
        "wideband afr | o2 | lambda measured | afr measured | measured lambda | measured "
        "afr | air fuel | wbo2 | lambda actual | actual lambda | lambda bank 1 | lambda ist "
        "| ego | lambdawert | wb lambda | wb afr | exhaust lambda | uego | lambda sensor | "
        "actual afr | lambdasonde | mixture | air to fuel ratio | equivalence ratio | phi | "
        "eq ratio"
        " | lam | lamb | a f | a f ratio | af ratio | af r | air fuel r | air fuel mixture"
        " | luftverhaltnis | luftzahl | luft kraftstoff verhaltnis | lkv"
        " | kraftstoff luft verhaltnis | gemisch | breitband | breitbandsonde"
        " | breitband lambda | sonde lambda | sonda lambda | rapport air carburant"
        " | rapport air essence | ratio air carburant | relacion aire combustible"
        " | relacion aire gasolina | mezcla | rapporto aria carburante"
        " | rapporto aria benzina | rapporto stechiometrico | miscela | melange"
        " | wbo | wb | wb o2 | richesse | wideband o2 | wideband 1 | o2 wideband | lambda wb | afr wb"
        " | afr wideband | lambda wideband | ego 1 | exhaust afr | exhaust air fuel"
        " | lambda s 1 | lambda 1 sensor | mixture ratio",
    ),
    (
        "lambda_target", "Lambda target", "mixture", "lambda",
        "lambda target | target lambda | afr target | target afr | lambda soll | desired "
        "lambda | commanded lambda | desired afr | commanded afr | lambda setpoint | soll "
        "lambda | lambda cmd | lambda desired | lambda command | afr desired | afr setpoint "
        "| afr commanded | afr cmd",
    ),
    (
        "pulse_ms", "Injection pulse", "time", "ms",
        "pulse | pw | pulse width | pulsewidth | injector pulse width | injection time | "
        "inj pw | injector pulse | injection pulse | einspritzzeit | injector pw | inj time "
        "| fuel pulse | injector time | pw 1 | pulse width 1 | fuel pulse width | injector "
        "on time | ti | inj pulse width | inj pulse | injection duration | einspritzdauer | "
        "injector duration"
        " | temps injection | temps d injection | duree injection | duree d injection"
        " | tps inj | tiempo inyeccion | tiempo de inyeccion | ancho pulso | ancho de pulso"
        " | duracion inyeccion | tempo iniezione | tempo di iniezione | durata iniezione"
        " | einspritz zeit | ti ms | t inj | tinj | inj t | inj duration | injektor zeit"
        " | injector ms | inj ms | fuel pw | pulswidth | pulsbreite | einspritzimpuls",
    ),
    (
        "battery_v", "Battery voltage", "voltage", "V",
        "tension batterie | tension | tensione batteria | tension bateria | battery | "
        "battery voltage | batt | vbat | battery v | volts | voltage | bat | system voltage "
        "| batteriespannung | bordspannung | supply voltage | u batt | ubat | ubatt | batt "
        "v | vbatt | batt voltage | bat v | battery volts | spannung | v batt | ecu voltage"
        " | voltage batterie | v batterie | u batterie | batterie | bateria | voltaje bateria"
        " | voltaje | v bateria | batteria | v batteria | volt batteria | battery volt"
        " | batt volts | battery u | bordnetz | bordnetzspannung | klemme 30"
        " | versorgungsspannung | u bat | vb | v bat | sys v | sys volt | ecu v | ecu volts"
        " | alim | tension alimentation",
    ),
    (
        "idle_valve_pct", "Idle valve", "share", "percent",
        "idle valve | iac | idle valve position | iac duty | idle air | idle air control | "
        "idle duty | iac position | idle valve duty | leerlaufsteller | leerlaufventil | "
        "isc | idle control valve | iacv | idle air valve | idle position | iac valve | isc "
        "duty | icv | idle actuator | leerlaufregler"
        " | vanne ralenti | vanne de ralenti | actuateur ralenti | actionneur ralenti"
        " | valvula ralenti | valvula de ralenti | actuador ralenti"
        " | valvola minimo | valvola del minimo | attuatore minimo | leerlauf steller"
        " | leerlauf ventil | leerlaufregler tastverhaltnis | lls | lfr | idle pwm"
        " | idle valve pwm | iac pwm | idle air duty | idle air valve duty"
        " | idle valve opening | iac opening | iac pct | idle bypass | bypass valve | iac pos",
    ),
    (
        "spark_deg", "Spark advance", "angle", "degree",
        "spark | spark advance | ignition | ignition advance | ignition timing | advance | "
        "timing | ignition angle | zundwinkel | zundung | ign | spark angle | ign timing | "
        "ign adv | zundzeitpunkt | zzp | ign advance | spark timing | timing advance"
        " | avance | avance allumage | avance a l allumage | angle allumage | allumage"
        " | avance encendido | avance de encendido | encendido | angulo encendido | anticipo"
        " | anticipo accensione | accensione | angolo accensione | zund winkel | zw"
        " | zundwinkel kw | fruhzundung | spk | spk adv | adv | spark adv | timing deg"
        " | ign angle | ign deg | sa",
    ),
    (
        "fuel_pressure_kpa", "Fuel pressure", "pressure", "kPa",
        "rail | fuel pres | pression essence | pression carburant | fuel pressure | fuel press | "
        "rail pressure | kraftstoffdruck | fp | fuel rail pressure | fuel p | benzindruck | "
        "p fuel | fuel rail | p rail | raildruck | fuel psi"
        " | pression rampe | pression rail | pression d essence | pression carb | p carburant"
        " | p essence | presion combustible | presion de combustible | presion gasolina"
        " | presion rampa | pressione carburante | pressione benzina | pressione rail"
        " | kraftstoff druck | benzin druck | p kraftstoff | p benzin | f press | fuel prs"
        " | fuel pr | fprs | fprss | rail press | rail p",
    ),
    (
        "lambda_correction_pct", "Lambda correction", "share", "percent",
        "lambda correction | ego correction | closed loop correction | fuel correction | "
        "short term trim | stft | short term fuel trim | lambda trim | fuel trim | o2 "
        "correction | lambdakorrektur | ego cor | closed loop trim | cl correction | lambda "
        "regler | lambda corr | afr correction"
        " | correction richesse | correction lambda | correction de richesse"
        " | correction carburant | correccion lambda | correccion combustible"
        " | correzione lambda | correzione miscela | correzione carburante | lambda regelung"
        " | lambda regler korrektur | gemischkorrektur | kraftstoffkorrektur | o2 trim"
        " | o2 corr | ego trim | ego corr | ego cor 1 | cl trim | cl corr | closed loop corr"
        " | fuel corr | lambda cor | afr corr | lambda control | closed loop fuel correction",
    ),
    (
        "sync", "Synchronised", "", "",
        "sync | synced | synchronised | synchronized | sync status | trigger sync | "
        "position known | sync state | crank sync | engine sync | synchron"
        " | synchronisation | synchro | sincronismo | sincronizado | sincronizzazione"
        " | sincronizzato | synchronisiert | synchronisation ok | sync ok | has sync"
        " | full sync",
    ),
    (
        "flow_gps", "Air flow", "mass_flow", "g/s",
        "air flow | maf | mass air flow | airflow | luftmasse | air mass flow | "
        "luftmassenstrom | mass airflow | mass flow | maf flow",
    ),
    (
        "knock_deg", "Knock retard", "angle", "degree",
        "knock retard | knock | knock correction | klopfen | knock angle | klopfrucknahme",
    ),
    (
        "boost_duty_pct", "Boost valve duty", "share", "percent",
        "boost duty | wastegate duty | boost valve | boost control duty | ladedruckventil | "
        "wg duty | boost solenoid | boost control | wastegate duty cycle",
    ),
    (
        "barometric_kpa", "Barometric pressure", "pressure", "kPa",
        "barometric pressure | barometric | baro | baro pressure | ambient pressure | "
        "atmospheric pressure | barometer | luftdruck | umgebungsdruck | pression atmospherique"
        " | pression barometrique | pression atmo | p atmo | p atm | presion atmosferica"
        " | presion barometrica | baro kpa | pressione atmosferica | pressione barometrica"
        " | barometer druck | p baro | p amb | pamb | atm press | baro press",
    ),
    (
        "oil_pressure_kpa", "Oil pressure", "pressure", "kPa",
        "oil pressure | oil press | oldruck | engine oil pressure | p oil | pression huile"
        " | presion aceite | presion de aceite | pressione olio | pression d huile | ol druck",
    ),
    (
        "oil_c", "Oil temperature", "temperature", "degC",
        "oil temperature | oil temp | oltemperatur | engine oil temperature | engine oil temp | "
        "t oil | temperature huile"
        " | temp huile | temperatura aceite | temp aceite | temperatura olio | temp olio"
        " | ol temp | ol temperatur | t huile | t olio | t aceite | toil",
    ),
    (
        "fuel_level_l", "Fuel level", "volume", "litre",
        "fuel level | tank level | fuel quantity | fuel volume | tankinhalt",
    ),
    (
        "ethanol_pct", "Ethanol share", "share", "percent",
        "ethanol | ethanol content | ethanol share | ethanol percent | ethanol percentage | "
        "flex fuel | flexible fuel | flex fuel content | ethanolanteil",
    ),
    (
        "exhaust_c", "Exhaust temperature", "temperature", "degC",
        "exhaust temperature | exhaust temp | exhaust gas temperature | exhaust gas temp | egt | "
        "egt 1 | abgastemperatur"
        " | temperature echappement | temp echappement | temperatura escape | temp escape"
        " | temperatura scarico | temp scarico | abgas temp | t abgas | abgas temperatur",
    ),
    (
        "speed_kmh", "Road speed", "road_speed", "km/h",
        "vehicle speed | speed | road speed | vss | wheel speed | geschwindigkeit | gps "
        "speed | fahrgeschwindigkeit | veh speed | vitesse"
        " | vitesse vehicule | velocidad | velocidad vehiculo | velocita | velocita veicolo"
        " | fahrzeuggeschwindigkeit | v fzg | v veh | vehicle spd | veh spd | vspd | km h",
    ),
    (
        "altitude_m", "Altitude", "length", "m",
        "altitude | gps altitude | elevation | height above sea level | hohe | hohe uber meer | gps hohe | seehohe"
        " | altitud | altitudine | quota",
    ),
    (
        "idle_target_rpm", "Idle target", "speed_of_rotation", "rpm",
        "idle target | target idle | idle speed target | idle rpm target | target idle speed | target idle rpm | "
        "desired idle | desired idle speed | desired idle rpm | idle setpoint | leerlaufsolldrehzahl | leerlauf solldrehzahl | leerlauf soll | "
        "solldrehzahl leerlauf | leerlaufsoll | regime ralenti cible | consigne ralenti | ralenti objetivo | "
        "minimo target | regime minimo target | idle tgt | idle rpm cmd"
        " | leerlaufdrehzahl soll | ralenti cible | ralenti consigne",
    ),
    (
        "meter_hz", "Air-flow meter signal", "speed_of_rotation", "hertz",
        "maf frequency | maf freq | air meter frequency | air flow meter frequency | maf hz | "
        "luftmassenmesser frequenz | lmm frequenz | frequence debitmetre",
    ),
    (
        "meter_v", "Air-flow meter signal", "voltage", "V",
        "maf voltage | maf v | maf volts | air meter voltage | air flow meter voltage | afm voltage | "
        "luftmassenmesser spannung | lmm spannung | tension debitmetre",
    ),
    (
        "lambda_2", "Lambda, second sensor", "mixture", "lambda",
        "lambda 2 | afr 2 | lambda bank 2 | afr bank 2 | wideband 2 | lambda b 2 | lambda sensor 2 | "
        "lambdasonde 2 | sonde 2 | o2 2",
    ),
    (
        "boost_target_kpa", "Boost target", "pressure", "kPa",
        "boost target | target boost | boost setpoint | desired boost | ladedruck soll | boost soll",
    ),
    *(
        (
            f"lambda_cylinder_{number}", f"Lambda, cylinder {number}", "mixture", "lambda",
            f"lambda cylinder {number} | lambda cyl {number} | afr cylinder {number} | afr cyl {number} | "
            f"lambda zylinder {number} | lambda zyl {number}",
        )
        for number in range(1, 13)
    ),
    (
        "cam_profile", "Cam profile", "", "",
        "cam profile | cam switch | cam state | cam lobe | cam profile state | high cam | nockenprofil",
    ),
    (
        "ambient_c", "Ambient temperature", "temperature", "degC",
        "ambient temperature | ambient temp | ambient air temperature | outside temperature | outside temp | "
        "aussentemperatur | umgebungstemperatur | temperature exterieure | temperatura esterna | temperatura exterior"
        " | umgebungs temperatur | temp exterieure | temp ext | temp esterna | temp exterior"
        " | aussentemp | t amb | tamb | temperature ambiante | temperatura ambiente",
    ),
    (
        "gear", "Gear", "", "",
        "gear | gear position | current gear | selected gear | gang | rapport engage | marcia | marcha"
        " | rapport | vitesse engagee | rapporto",
    ),
    (
        "torque_nm", "Torque", "torque", "newton*meter",
        "torque | engine torque | brake torque | wheel torque | drehmoment | couple | coppia | par motor",
    ),
    (
        "power_kw", "Power", "power", "kW",
        "power | engine power | brake power | wheel power | leistung | puissance | potenza | potencia",
    ),
    (
        "knock_count", "Knock events", "", "",
        "knock count | knock events | knock counter | knocks | klopfzahler | klopfereignisse",
    ),
)  # fmt: skip

CHANNELS: dict[str, ChannelName] = {
    channel: ChannelName(channel, title, dimension, unit, tuple(text.split(" | ")))
    for channel, title, dimension, unit, text in _NAMES
}
