"""Pins of a board are named by what they can do: wires, ticks, photographs and own parts follow."""

from django.db import migrations

FORMERLY = {
    "VIN": "RAW", "AREF": "REF", "TX": "SER1", "RX": "SER2", "D2": "INT1", "D3": "INT2", "D4": "IO1", "D7": "IO2",
    "D5": "PWM1", "D6": "PWM2", "D9": "PWM3", "D10": "CLK1", "D11": "CLK2", "D12": "CLK3", "D13": "CLK4",
    "A0": "AN1", "A1": "AN2", "A2": "AN3", "SDA": "BUS1", "SCL": "BUS2",
}


def _renamed(terminal, boards):
    part, _, name = terminal.partition(".")
    return f"{part}.{FORMERLY.get(name, name)}" if part in boards else terminal


def _numbers(numbers):
    return {FORMERLY.get(name, name): number for name, number in numbers.items()}


def forwards(apps, schema_editor):
    fitted = apps.get_model("wiring", "FittedPart")
    boards = {}
    for part in fitted.objects.filter(kind="microcontroller"):
        boards.setdefault(part.rig_id, set()).add(part.name)
        if "output_pin" in part.ratings:
            part.ratings["output_pin"] = FORMERLY.get(part.ratings["output_pin"], part.ratings["output_pin"])
        part.numbers = _numbers(part.numbers)
        part.save()
    for rig, names in boards.items():
        for model, fields in (("Wire", ("a", "b")), ("BuiltWire", ("a", "b")), ("Photo", ("terminal",))):
            for row in apps.get_model("wiring", model).objects.filter(rig_id=rig):
                for field in fields:
                    setattr(row, field, _renamed(getattr(row, field), names))
                row.save(update_fields=fields)
    for own in apps.get_model("library", "Own").objects.filter(kind="microcontroller"):
        own.numbers = _numbers(own.numbers)
        own.save()


class Migration(migrations.Migration):
    dependencies = [("wiring", "0003_wiring_steps"), ("library", "0001_initial")]
    operations = [migrations.RunPython(forwards, migrations.RunPython.noop)]
