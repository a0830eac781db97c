"""Invented listings in the shapes makers and shops use, with every figure that is a claim.

Each is (text, figures): a figure is quantity → value, or → list of values. What is no claim of
the bench (sizes, colours, input mains volts) is not listed.
"""

LISTINGS = (
    (
        "Capacity: 2,048 Wh (51.2V 40Ah)\nAC output: 4 outlets, 120 V, 60 Hz, 2000 W continuous "
        "(surge 4000 W for 5 s)\nWeight: 50.7 lb",
        {
            "rated_wh": 2048,
            "pack_v": 51.2,
            "pack_ah": 40,
            "ac_outlets": 4,
            "ac_v": 120,
            "ac_hz": 60,
            "continuous_w": 2000,
            "surge_w": 4000,
            "surge_s": 5,
            "weight_kg": 22.997,
        },
    ),
    (
        "Battery capacity\t268,000 mAh / 3.2 V\nRated power\t1000W\nSurge power\t2000W",
        {"pack_ah": 268, "cell_v": 3.2, "continuous_w": 1000, "surge_w": 2000},
    ),
    (
        "Solar input: 12–60 V, 15 A max, 500 W max",
        {"solar_v_min": 12, "solar_v_max": 60, "solar_a": 15, "solar_w": 500},
    ),
    (
        "Solar: 11 to 50V, 10 A max, up to 400W",
        {"solar_v_min": 11, "solar_v_max": 50, "solar_a": 10, "solar_w": 400},
    ),
    ("0–80% in 45 mins", {"recharge_min": 45}),
    (
        "Charges from 0 to 80% in 43 minutes via AC wall outlet; full in 58 min",
        {"recharge_min": [43, 58]},
    ),
    (
        "Recharge time: 1.5 hours (AC), 4 h with 400 W solar, 6.5 h (car)",
        {"recharge_min": 90, "solar_h": 4, "car_in_h": 6.5},
    ),
    ("Full charge: 1h 20min from the wall", {"recharge_min": 80}),
    (
        "• AC Outlets ×4\n• 2400W inverter\n• 4,800 W peak",
        {"ac_outlets": 4, "continuous_w": 2400, "surge_w": 4800},
    ),
    (
        "USB-C: 2 × 100 W\nUSB-A: 4 x 12W (5V, 2.4A)",
        {
            "usb_c_ports": 2,
            "usb_c_w": 100,
            "usb_a_ports": 4,
            "usb_a_w": 12,
            "usb_a_v": 5,
            "usb_a_a": 2.4,
        },
    ),
    (
        "Outputs: USB-C 140W x1, USB-C 30W x2, USB-A 18W x2, 12V socket 10A",
        {
            "usb_c_w": [140, 30],
            "usb_c_ports": [1, 2],
            "usb_a_w": 18,
            "usb_a_ports": 2,
            "car_out_v": 12,
            "car_out_a": 10,
        },
    ),
    ("Car port: 13.6 V, 10 A max, 136 W", {"car_out_v": 13.6, "car_out_a": 10, "car_out_w": 136}),
    ("DC5521 output ×2: 12.6 V, 3 A", {"dc_ports": 2, "dc_v": 12.6, "dc_a": 3}),
    ("AC input: 100–120 V, 50/60 Hz, 1800 W, 15 A", {"recharge_w": 1800, "wall_a": 15}),
    ("Car charging: 12 V/24 V, 8 A max", {"car_in_v": [12, 24], "car_in_a": 8}),
    (
        "UPS: switchover < 20 ms\nPass-through charging: yes",
        {"ups": 1, "transfer_ms": 20, "pass_through": 1},
    ),
    (
        "Cell chemistry: LiFePO4\nCycle life: 4,000+ cycles to 80% capacity\nCells: 16S1P",
        {"chemistry": "LFP", "cycle_life": 4000, "cells_series": 16},
    ),
    ("Noise: < 50 dB at 1 m\nWeight (without cables): 9.8 kg", {"noise_db": 50, "weight_kg": 9.8}),
    (
        "Charge temperature: 0°C to 45°C\nDischarge temperature: -10°C to 45°C",
        {"charge_c_min": 0, "charge_c_max": 45, "use_c_min": -10, "use_c_max": 45},
    ),
    ("Operating temperature: 14–104 °F", {"use_c_min": -10, "use_c_max": 40}),
    ("Wall + solar: up to 2300 W", {"combined_in_w": 2300}),
    (
        "AC + PV dual input: 1,400W max, 0-80% in 50 min",
        {"combined_in_w": 1400, "combined_min": 50},
    ),
    ("Idle consumption: 18 W (AC on)\nStandby: 3W", {"idle_w": [18, 3]}),
    (
        "Warranty: 5 years\nLifted power: 3000 W\nPure sine wave",
        {"warranty_years": 5, "lifted_w": 3000, "pure_sine": 1},
    ),
    (
        "Capacidad? no. Energy: 1,5 kWh\nInverter output: 1,8 kW",
        {"rated_wh": 1500, "continuous_w": 1800},
    ),
    (
        "AC Output\n  Rated: 600 W\n  Peak: 1200 W\n  Voltage: 230 V\n  Frequency: 50 Hz",
        {"continuous_w": 600, "surge_w": 1200, "ac_v": 230, "ac_hz": 50},
    ),
    (
        "Solar input\nVoltage: 12-28V\nCurrent: 8A\nPower: 200 W",
        {"solar_v_min": 12, "solar_v_max": 28, "solar_a": 8, "solar_w": 200},
    ),
    (
        "This 1,024Wh power station weighs just 12.5 kg and runs 1,200W appliances.",
        {"rated_wh": 1024, "weight_kg": 12.5, "continuous_w": 1200},
    ),
    ("USB-C input: 100 W\nTotal USB output: 240 W shared", {"usb_in_w": 100, "usb_shared_w": 240}),
    (
        "| Capacity | 288Wh (90Ah, 3.2V) |\n| AC output | 300W, surge 600W |",
        {"rated_wh": 288, "pack_ah": 90, "cell_v": 3.2, "continuous_w": 300, "surge_w": 600},
    ),
    (
        "Transfer time: 10ms (UPS mode)\nModified sine wave inverter, 500 watts",
        {"transfer_ms": 10, "continuous_w": 500, "ups": 1},
    ),
    (
        "Max solar charging 2 x 800W, 38–150V, 13A each",
        {"solar_w": 800, "solar_v_min": 38, "solar_v_max": 150, "solar_a": 13},
    ),
    (
        "Recharging: wall 1500 W; solar 600 W; car 96 W",
        {"recharge_w": 1500, "solar_w": 600, "car_in_w": 96},
    ),
    (
        "Net weight = 61.7 lbs\nBattery: NMC, 21.6 V 28.5Ah, 615.6Wh, 800 cycles",
        {
            "weight_kg": 27.987,
            "chemistry": "NMC",
            "pack_v": 21.6,
            "pack_ah": 28.5,
            "rated_wh": 615.6,
            "cycle_life": 800,
        },
    ),
    (
        "Four 120V AC outlets, 20 A\nTwo USB-A ports (12 W each)\nOne 12V car outlet (120W)",
        {
            "ac_outlets": 4,
            "ac_v": 120,
            "ac_a": 20,
            "usb_a_ports": 2,
            "usb_a_w": 12,
            "car_out_v": 12,
            "car_out_w": 120,
            "car_out_ports": 1,
        },
    ),
    (
        "Usable capacity: 1843 Wh at 25 °C\nAC charging power: 200-1500 W adjustable",
        {"usable_wh": 1843, "recharge_w": 1500},
    ),
)
