"""The network: a small convolutional reader of line beginnings, trained with connectionist temporal classification."""

from __future__ import annotations

from torch import Tensor, nn

from folio_core.reading.crops import BLANK


def _block(into: int, out: int) -> nn.Sequential:
    return nn.Sequential(nn.Conv2d(into, out, 3, padding=1, bias=False), nn.BatchNorm2d(out), nn.ReLU())


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
            nn.Conv2d(1, 24, 5, stride=2, padding=2, bias=False), nn.BatchNorm2d(24), nn.ReLU(),
            _block(24, 40), nn.MaxPool2d(2),
            _block(40, 64), _block(64, 72), nn.MaxPool2d((2, 1)),
            _block(72, 96),
            nn.Conv2d(96, 112, (4, 1), bias=False), nn.BatchNorm2d(112), nn.ReLU(),
        )  # fmt: skip
        self.along = nn.Sequential(_Along(112, 1), _Along(112, 2), _Along(112, 4))
        self.signs = nn.Linear(112, BLANK + 1)

    def forward(self, crops: Tensor) -> Tensor:
        line = self.along(self.seen(crops).squeeze(2))
        return self.signs(line.transpose(1, 2)).log_softmax(2)
