"""Protocols, one file each, found by being here: every module that defines DRIVER."""

from yardtoll.bench.instrument import Driver
from yardtoll.core.discovery import found_in

DRIVERS: dict[str, Driver] = {
    driver.protocol: driver for driver in found_in(__name__, __path__, "DRIVER")
}
