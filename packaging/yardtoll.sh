#!/bin/sh
# Nothing is written beside the installed program; its modules are compiled already.
export PYTHONDONTWRITEBYTECODE=1
exec /opt/yardtoll/bin/python3 -s -m yardtoll "$@"
