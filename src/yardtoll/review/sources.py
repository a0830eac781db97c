"""Where each way of charging draws from; apart, since the first view needs nothing else."""

from yardtoll.core.ledger.ledger import Kind

SOURCES = {
    "recharge_wall": ("wall", Kind.WALL),
    "recharge_sun": ("sun", Kind.SUN),
    "recharge_car": ("car socket", Kind.WALL),
    "recharge_usb_c": ("USB-C port", Kind.WALL),
    "recharge_wall_sun": ("wall and sun", Kind.WALL),
}
"""What each way of charging draws from, and its colour."""
