"""What entries hold that is more than a value: instruments and machines, as JSON values, back, and their schema."""

from typing import Any

from groundwork.tools import Instrument, Machine, MachineKind, Method


def instrument_data(value: Instrument) -> dict[str, Any]:
    return {
        "method": str(value.method),
        "name": value.name,
        "reading_u_mm": round(value.reading_u * 1000, 6),
        "rate_mm_m": round(value.rate * 1000, 6),
        "collimation_mm_m": round(value.collimation * 1000, 6),
    }


def instrument(kept: dict[str, Any] | str) -> Instrument:
    """An instrument from JSON values, or by its method's name alone."""
    if isinstance(kept, str):
        return Instrument(Method(kept))
    return Instrument(
        Method(kept["method"]),
        kept.get("name", ""),
        kept.get("reading_u_mm", 0) / 1000,
        kept.get("rate_mm_m", 0) / 1000,
        kept.get("collimation_mm_m", 0) / 1000,
    )


def machine_data(value: Machine) -> dict[str, Any]:
    return {
        "name": value.name,
        "kind": str(value.kind),
        "mass_kg": value.mass,
        "width_m": value.width,
        "length_m": value.length,
        "speed_m_s": value.speed,
        "force_kn": value.force,
        "vibration_m_s2": value.vibration,
    }


def machine(kept: dict[str, Any]) -> Machine:
    """A machine from JSON values; speed and vibration are as usual where left out."""
    return Machine(
        kept["name"],
        MachineKind(kept["kind"]),
        float(kept["mass_kg"]),
        float(kept["width_m"]),
        *(float(kept.get(key, 0)) for key in ("length_m", "speed_m_s", "force_kn", "vibration_m_s2")),
    )


def _number(**limits: float | str) -> dict[str, Any]:
    return {"type": "number"} | limits


_METHODS = {"enum": [str(method) for method in Method]}
INSTRUMENT_SCHEMA: dict[str, Any] = {
    "description": "A method alone, or an instrument with its standard uncertainties.",
    "anyOf": [
        _METHODS,
        {
            "type": "object",
            "required": ["method"],
            "additionalProperties": False,
            "properties": {
                "method": _METHODS,
                "name": {"type": "string", "maxLength": 80},
                "reading_u_mm": _number(minimum=0, maximum=1000),
                "rate_mm_m": _number(minimum=0, maximum=100),
                "collimation_mm_m": _number(minimum=-100, maximum=100),
            },
        },
    ],
}
MACHINE_SCHEMA: dict[str, Any] = {
    "type": "object",
    "required": ["name", "kind", "mass_kg", "width_m"],
    "additionalProperties": False,
    "properties": {
        "name": {"type": "string", "minLength": 1, "maxLength": 80},
        "kind": {"enum": [str(kind) for kind in MachineKind]},
        "mass_kg": _number(exclusiveMinimum=0, maximum=30000, description="On the vibrating roll where it rolls."),
        "width_m": _number(exclusiveMinimum=0, maximum=3),
        "length_m": _number(minimum=0, maximum=3, description="Of the base plate."),
        "speed_m_s": _number(minimum=0, maximum=5),
        "force_kn": _number(minimum=0, maximum=1000),
        "vibration_m_s2": _number(minimum=0, maximum=50),
    },
}
