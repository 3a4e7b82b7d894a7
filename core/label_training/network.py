"""The network: a small convolutional reader of line beginnings, trained with connectionist temporal classification."""

from __future__ import annotations

from torch import Tensor, nn

from folio_core.reading.crops import BLANK

_SIGNS = BLANK + 1
_TO_A_COLUMN = 2  # steps: narrow signs beside one another ("iii") need a blank between them


def _block(into: int, out: int, stride: int = 1) -> nn.Sequential:
    return nn.Sequential(nn.Conv2d(into, out, 3, stride, padding=1, bias=False), nn.BatchNorm2d(out), nn.ReLU())


class _Residual(nn.Module):
    """Two convolutions whose result is added to what came in (He et al. 2016)."""

    def __init__(self, width: int) -> None:
        super().__init__()
        self.body = nn.Sequential(
            _block(width, width), nn.Conv2d(width, width, 3, padding=1, bias=False), nn.BatchNorm2d(width)
        )

    def forward(self, seen: Tensor) -> Tensor:
        return (seen + self.body(seen)).relu()


class _Along(nn.Module):
    """Looks along the line, further each time, and adds what it sees."""

    def __init__(self, width: int, reach: int) -> None:
        super().__init__()
        self.body = nn.Sequential(
            nn.Conv1d(width, width, 5, padding=2 * reach, dilation=reach, bias=False), nn.BatchNorm1d(width), nn.ReLU()
        )

    def forward(self, line: Tensor) -> Tensor:
        return line + self.body(line)


class LabelReader(nn.Module):
    """n × 1 × height × width, 0 to 1 with ink at 1 → n × steps × signs, log probabilities; the last sign is blank."""

    def __init__(self) -> None:
        super().__init__()
        self.seen = nn.Sequential(
            nn.Conv2d(1, 32, 5, stride=2, padding=2, bias=False), nn.BatchNorm2d(32), nn.ReLU(),
            _block(32, 64, 2), _Residual(64),
            _block(64, 96), nn.MaxPool2d((2, 1)), _Residual(96), _Residual(96),
            nn.Conv2d(96, 160, (4, 1), bias=False), nn.BatchNorm2d(160), nn.ReLU(),
        )  # fmt: skip
        self.along = nn.Sequential(_Along(160, 1), _Along(160, 2), _Along(160, 4))
        self.signs = nn.Linear(160, _TO_A_COLUMN * _SIGNS)

    def forward(self, crops: Tensor) -> Tensor:
        line = self.along(self.seen(crops).squeeze(2))
        said = self.signs(line.transpose(1, 2))
        return said.reshape(-1, _TO_A_COLUMN * said.shape[1], _SIGNS).log_softmax(2)  # of any number of crops
