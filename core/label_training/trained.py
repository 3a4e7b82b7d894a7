"""A network that was written as ONNX, to go on training from."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import onnx
import torch
from numpy.typing import NDArray
from onnx import numpy_helper
from torch import nn

from .network import LabelReader

_LOOKED_AT = 1500  # crops


def weights_of(file: Path, crops: NDArray[np.uint8], kept: Path) -> Path:
    """Writes the weights of ``file`` to ``kept``, as `train` goes on from them.

    Written as ONNX a layer and the normalization behind it are one. They are parted again so that the network says the
    same in training as before: each normalization takes mean and spread from ``crops``, n × height × width.
    """
    graph = onnx.load(file).graph
    values = {one.name: numpy_helper.to_array(one) for one in graph.initializer}
    layers = [node for node in graph.node if node.op_type == "Conv"]
    model = LabelReader()
    convolutions = [one for one in model.modules() if isinstance(one, nn.Conv1d | nn.Conv2d)]
    normalizations = [one for one in model.modules() if isinstance(one, nn.BatchNorm1d | nn.BatchNorm2d)]
    for node, convolution, normalization in zip(layers, convolutions, normalizations, strict=True):
        weight, bias = (torch.from_numpy(values[name].copy()) for name in node.input[1:3])
        convolution.weight.data = weight

        def parted(module: nn.BatchNorm2d, seen: tuple[torch.Tensor], bias: torch.Tensor = bias) -> None:
            others = [at for at in range(seen[0].dim()) if at != 1]
            module.running_mean = seen[0].mean(others)
            module.running_var = seen[0].var(others, unbiased=False)
            module.weight.data = (module.running_var + module.eps).sqrt()
            module.bias.data = bias + module.running_mean

        normalization.register_forward_pre_hook(parted)
    for node in graph.node:
        for name in node.input:
            if node.op_type == "MatMul" and name in values:
                model.signs.weight.data = torch.from_numpy(values[name].T.copy())
            elif node.op_type == "Add" and name in values:
                model.signs.bias.data = torch.from_numpy(values[name].copy())
    model.eval()
    with torch.no_grad():
        model(torch.from_numpy(crops[:_LOOKED_AT]).float().unsqueeze(1) / 255)
    torch.save(model.state_dict(), kept)
    return kept
