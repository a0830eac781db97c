"""Photos read as large as they are shown, upright; on a worker, for a photo takes its time."""

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt
from PySide6.QtGui import QImage, QImageIOHandler, QImageReader

_Turn = QImageIOHandler.Transformation


def read_upright(data: bytes, within: QSize) -> QImage:
    """A photo, no larger than asked; a null image of what is none.

    The camera's note on which way is up is carried out, as it is on the sheet. A reader lets other
    threads go on, and leaves out of a JPEG what is not needed for a smaller picture.
    """
    held = QBuffer()
    held.setData(QByteArray(data))
    held.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(held)
    reader.setAutoTransform(True)
    size = reader.size()
    # It is scaled before it is turned.
    is_turned = bool(reader.transformation().value & _Turn.TransformationRotate90.value)
    most = within.transposed() if is_turned else within
    if size.isValid() and (size.width() > most.width() or size.height() > most.height()):
        fitted = size.scaled(most, Qt.AspectRatioMode.KeepAspectRatio)
        reader.setScaledSize(fitted.expandedTo(QSize(1, 1)))
    return reader.read()
