"""What the words around a figure say it is: topics, and the kind a unit has under each."""

import re
from dataclasses import dataclass


@dataclass(frozen=True)
class Topic:
    """What a line is about: the words that say so, and the kind of claim for each unit.

    A unit that is missing is no claim under this topic. ``count`` is the kind of a bare count.
    """

    name: str
    words: re.Pattern[str]
    kinds: dict[str, str]
    count: str = ""


def _topic(name: str, words: str, kinds: dict[str, str], count: str = "") -> Topic:
    return Topic(name, re.compile(words, re.IGNORECASE), kinds, count)


def _port(port: str) -> dict[str, str]:
    return {"W": f"{port}_w", "V": f"{port}_v", "A": f"{port}_a"}


# The first whose words are found is meant: the narrower stand before the wider.
TOPICS: tuple[Topic, ...] = (
    _topic("ignored", r"\b(dimensions?|size|expand\w*|extra batter\w+|add-?on|cable length)\b", {}),
    _topic("ignored", r"\bstorage temp\w*|\bstore at\b|\bshelf life\b|\bheight\b|\bdepth\b", {}),
    _topic("cycle_life", r"\bcycles?\b|\blife ?span\b|\bcycle life\b", {"cycles": "cycle_life"}),
    _topic("warranty", r"\bwarrant\w+|\bguarantee\w*", {"years": "warranty_years"}),
    _topic("weight", r"\bweigh\w*|\bmass\b|\bheavy\b", {"kg": "weight_kg"}),
    _topic("noise", r"\bnois\w+|\bsound\b|\bloud\w*|\bdB\b|\bquiet as\b", {"dB(A)": "noise_db"}),
    _topic(
        "transfer",
        r"\btransfer\b|\bswitch-?\s?over\b|\bswitching time\b|\bUPS\b|\bEPS\b|\bchange-?over\b",
        {"ms": "transfer_ms"},
    ),
    _topic(
        "charge_c",
        r"\b(?<!dis)charg\w+ (?:temp\w*|range)|\btemp\w*\W+(?:\w+\W+)?(?<!dis)charg\w+"
        r"|\brecharg\w+ temp",
        {"°C": "charge_c"},
    ),
    _topic(
        "use_c", r"\btemp\w*|\bdischarg\w+ range\b|\boperat\w+ (?:at|from|range)", {"°C": "use_c"}
    ),
    _topic(
        "idle",
        r"\bidle\b|\bstand-?by\b|\bself-?consumption\b|\bno-?load\b|\bquiescent\b",
        {"W": "idle_w"},
    ),
    _topic("lifted", r"\blift\w*|\bboost(?:ed)? mode\b|\bvoltage[- ]lower\w*", {"W": "lifted_w"}),
    _topic(
        "surge",
        r"\bsurge\b|\bpeak\b|\bstarting\b|\bstart-?up\b|\binrush\b|\binstantaneous\b",
        {"W": "surge_w", "s": "surge_s"},
    ),
    _topic(
        "combined",
        r"\b(?:AC|wall|mains|grid)\s*(?:\+|&|and|plus)\s*(?:solar|PV|sun)\b"
        r"|\b(?:solar|PV)\s*(?:\+|&|and|plus)\s*(?:AC|wall|mains)\b|\bdual (?:input|charg\w+)"
        r"|\bcombined\b|\bboth inputs\b|\bmax(?:imum)?\.? total input\b|\btotal input\b",
        {"W": "combined_in_w", "min": "combined_min", "h": "combined_min"},
    ),
    _topic(
        "solar",
        r"\bsolar\b|\bPV\b|\bMPPT\b|\bphotovoltaic\b|\bpanels?\b|\bsun\b|\bVoc\b"
        r"|\bopen[- ]circuit\b",
        {"W": "solar_w", "V": "solar_v", "A": "solar_a", "h": "solar_h", "min": "solar_h"},
    ),
    _topic(
        "usb_in",
        r"\bUSB-?\s?C (?:\w+ )?(?:input|charging|recharg\w+|in)\b|\bPD (?:input|charging)\b"
        r"|\bcharg\w+ (?:via|by|over|through) USB",
        {"W": "usb_in_w"},
    ),
    _topic(
        "car_in",
        r"\b(?:car|vehicle|auto|alternator)\W+(?:\w+\W+)?(?:charg\w+|input|recharg\w+|adapt\w+)"
        r"|\bcharg\w+ (?:from|in|via|by) (?:a |the )?(?:car|vehicle)|\b(?:from|via|by) car\b"
        r"|\bcigarette[- ]?lighter input|\b12 ?V(?:/24 ?V)? (?:input|charging)\b|\bcar\)",
        {"W": "car_in_w", "V": "car_in_v", "A": "car_in_a", "h": "car_in_h", "min": "car_in_h"},
    ),
    _topic(
        "usb_c",
        r"\bUSB[- ]?C\w?\b|\btype[- ]?C\b|\bPower Delivery\b|\bPD\b",
        _port("usb_c"),
        "usb_c_ports",
    ),
    _topic(
        "usb_a",
        r"\bUSB[- ]?A?\b|\bquick charge\b|\bfast-charge USB\b|\bQC\b",
        _port("usb_a"),
        "usb_a_ports",
    ),
    _topic(
        "car",
        r"\bcar (?:port|outlet|socket|output|power)|\bcarport\b|\bcigar\w*|\b12 ?V (?:socket|port|"
        r"outlet|car|output|DC)\b|\bauxiliary socket\b|\bcar\b|\blighter\b",
        _port("car_out"),
        "car_out_ports",
    ),
    _topic(
        "dc",
        r"\bDC ?5521\b|\bDC5525\b|\bbarrel\w*|\bDC (?:output|port|out|jack)s?\b|\bRV port\b"
        r"|\b30 ?A port\b",
        _port("dc"),
        "dc_ports",
    ),
    _topic(
        "wall",
        r"\bAC (?:input|charg\w+|recharg\w+|in)\b|\bwall\b|\bmains\b|\bgrid\b|\brecharg\w+\b"
        r"|\bcharg(?:e|es|ing)\b|\binput\b|\bfull in\b|\bin\b(?=.*\d+ ?%)",
        {
            "W": "recharge_w",
            "A": "wall_a",
            "V": "wall_v",
            "Hz": "",
            "min": "recharge_min",
            "h": "recharge_min",
        },
    ),
    _topic(
        "cells",
        r"\bcells?\b|\bin series\b|\bconfiguration\b",
        {"V": "cell_v", "Ah": "pack_ah", "cells": "cell_count", "Wh": "rated_wh"},
    ),
    _topic("usable", r"\busable\b", {"Wh": "usable_wh"}),
    _topic(
        "capacity",
        r"\bcapacity\b|\benergy\b|\bbattery\b|\bpack\b",
        {"Wh": "rated_wh", "Ah": "pack_ah", "V": "pack_v"},
    ),
    _topic(
        "ac_out",
        r"\bAC\b|\binverter\b|\boutlets?\b|\boutput\b|\bcontinuous\b|\brated\b|\brunning\b"
        r"|\bpower\b|\bsockets?\b|\bwattage\b|\bvoltage\b|\bfrequency\b",
        {"W": "continuous_w", "V": "ac_v", "A": "ac_a", "Hz": "ac_hz", "s": ""},
        "ac_outlets",
    ),
)
BY_NAME = {topic.name: topic for topic in TOPICS}

GENERIC_LABEL = re.compile(
    r"^(?:max(?:imum)?\.?|rated|input|output|nominal|operating)?\s*(?:voltage|current|power|wattage"
    r"|range|volts|amps|watts|count|number)(?:\s+range)?$",
    re.IGNORECASE,
)
"""A label that only names a quantity: the heading above says which."""

AS_INPUT = {"car": "car_in", "ac_out": "wall", "usb_c": "usb_in"}
"""A time beside the name of an output, or an output on a line of charging, means the input."""

BY_UNIT_ALONE = {
    "Wh": "rated_wh",
    "Ah": "pack_ah",
    "kg": "weight_kg",
    "dB(A)": "noise_db",
    "ms": "transfer_ms",
    "cycles": "cycle_life",
    "W": "continuous_w",
}
"""What a figure is likely to be where no word says so."""

CHEMISTRY = re.compile(r"\b(LiFePO4|LFP|NMC|NCM|NCA|LTO|lithium iron phosphate)\b", re.IGNORECASE)
CHEMISTRY_NAMES = {"lifepo4": "LFP", "lithium iron phosphate": "LFP", "ncm": "NMC"}
SERIES = re.compile(r"\b(\d{1,3})\s?S(?:\s?(\d{1,3})\s?P)?\b|\b(\d{1,3}) (?:cells )?in series\b")

YES_NO: tuple[tuple[str, re.Pattern[str]], ...] = (
    ("pure_sine", re.compile(r"\bpure[- ]sine\b|\btrue sine\b", re.IGNORECASE)),
    ("ups", re.compile(r"\bUPS\b|\buninterruptible\b", re.IGNORECASE)),
    ("pass_through", re.compile(r"\bpass-?\s?through\b", re.IGNORECASE)),
)
NOT = re.compile(r"\b(no|not|without|none|isn't|modified)\b", re.IGNORECASE)

CONDITIONS = (
    re.compile(r"(?:@|\bat)\s*-?\d+(?:\.\d+)?\s*(?:°\s*[CF]|m\b|ft\b|W\b)", re.IGNORECASE),
    re.compile(
        r"\b(?:UPS|EPS|turbo|quiet|silent|fast|eco|bypass|standard|boost)[- ]mode\b", re.IGNORECASE
    ),
    re.compile(
        r"\bwith (?:a |an )?\d+(?:\.\d+)?\s*k?W\b(?: (?:of )?(?:solar|panels?))*", re.IGNORECASE
    ),
    re.compile(r"\bfor (?:up to )?\d+(?:\.\d+)?\s*(?:min(?:utes)?|h(?:ours?)?)\b", re.IGNORECASE),
    re.compile(
        r"\b(?:to|until|with)\s*(?:>|≥|over )?\s*\d+\s?%\s*"
        r"(?:capacity|remaining|of capacity|left|DoD)\b",
        re.IGNORECASE,
    ),
    re.compile(r"\bAC on\b|\bAC off\b|\bDC on\b", re.IGNORECASE),
)
SOC_WINDOW = re.compile(
    r"(?:from\s*)?(\d{1,2})\s*%?\s*(?:-|–|to|→)\s*(\d{2,3})\s*%|(?:\bto|\bup to)\s*(\d{2,3})\s*%"
    r"|(?<![\d.])(\d{2,3})\s*%",
    re.IGNORECASE,
)
SHARED = re.compile(r"\btotal\b|\bshared\b|\ball ports\b|\btogether\b|\bcombined\b", re.IGNORECASE)
EACH = re.compile(r"\beach\b|\bper (?:port|outlet|socket)\b", re.IGNORECASE)
FULL = re.compile(r"\bfull(?:y)?\b|\bempty to full\b", re.IGNORECASE)
