"""Run by the system's Python: what a screen reader finds in the program, as JSON lines.

Usage: accessible_tree.py PROGRAM
"""

import json
import sys
import time

import gi

gi.require_version("Atspi", "2.0")
from gi.repository import Atspi  # noqa: E402


def program(name):
    until = time.monotonic() + 30
    while time.monotonic() < until:
        desktop = Atspi.get_desktop(0)
        for index in range(desktop.get_child_count()):
            found = desktop.get_child_at_index(index)
            if found is not None and found.get_name().lower() == name.lower():
                return found
        time.sleep(0.3)
    sys.exit(f"{name} is not on the accessibility bus")


def walk(node, depth=0):
    states = node.get_state_set()
    if depth and not states.contains(Atspi.StateType.SHOWING):
        return
    print(json.dumps({
        "role": node.get_role_name(),
        "name": node.get_name() or "",
        "description": node.get_description() or "",
        "focusable": states.contains(Atspi.StateType.FOCUSABLE),
        "enabled": states.contains(Atspi.StateType.ENABLED),
    }))  # fmt: skip
    for index in range(node.get_child_count()):
        child = node.get_child_at_index(index)
        if child is not None:
            walk(child, depth + 1)


walk(program(sys.argv[1]))
