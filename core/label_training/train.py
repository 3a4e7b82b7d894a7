"""Train on the shards, measure on hands never seen, and write the network as ONNX."""

from __future__ import annotations

import time
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import torch
from torch import nn

from folio_core.reading.crops import ALPHABET, BLANK, CROP_HEIGHT, CROP_WIDTH

from .network import LabelReader

_BATCH = 128


def train(
    files: Sequence[Path],
    validation: Path,
    out: Path,
    *,
    epochs: int,
    most: float,
    seed: int,
    threads: int = 2,
    from_: Path | None = None,
) -> Path:
    """One cycle of the learning rate, up to ``most``, over all shards, ``epochs`` times (Smith and Topin 2018).

    ``from_``: weights to go on from. Returns where the weights are kept for the next cycle.
    """
    torch.manual_seed(seed)
    torch.set_num_threads(threads)
    model = LabelReader().to(memory_format=torch.channels_last)  # type: ignore[call-overload]
    if from_ is not None:
        model.load_state_dict(torch.load(from_))
    steps = epochs * sum(len(np.load(file)["lengths"]) // _BATCH for file in files)
    optimizer = torch.optim.AdamW(model.parameters(), lr=most, weight_decay=1e-2)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimizer, max_lr=most, total_steps=steps, pct_start=0.1)
    loss_of = nn.CTCLoss(blank=BLANK, zero_infinity=True)
    halved = _computes_in_bfloat16()
    chance, kept = np.random.default_rng(seed), validation.with_name("weights.pt")
    began, done = time.monotonic(), 0
    for epoch in range(epochs):
        model.train()
        sums = []
        for file in chance.permutation(len(files)):
            with np.load(files[file]) as shard:
                crops, targets, lengths = shard["crops"], shard["targets"], shard["lengths"]
            order = chance.permutation(len(crops))
            for at in range(0, len(order) - _BATCH + 1, _BATCH):
                chosen = order[at : at + _BATCH]
                batch = _shaken(torch.from_numpy(crops[chosen]).float().unsqueeze(1) / 255)
                batch = batch.contiguous(memory_format=torch.channels_last)
                with torch.autocast("cpu", torch.bfloat16, enabled=halved):
                    said = model(batch)
                said = said.float()
                size = torch.full((_BATCH,), said.shape[1], dtype=torch.long)
                loss = loss_of(
                    said.transpose(0, 1), torch.from_numpy(targets[chosen]).long(), size,
                    torch.from_numpy(lengths[chosen]).long(),
                )  # fmt: skip
                optimizer.zero_grad()
                loss.backward()
                nn.utils.clip_grad_norm_(model.parameters(), 5.0)
                optimizer.step()
                schedule.step()
                sums.append(loss.item())
                done += 1
                if done % 250 == 0:
                    print(
                        f"step {done}/{steps} loss {np.mean(sums[-250:]):.3f} {time.monotonic() - began:.0f} s",
                        flush=True,
                    )
        right = measured(model, validation)
        print(
            f"epoch {epoch + 1}: loss {np.mean(sums):.3f}, unseen hands {right}, {time.monotonic() - began:.0f} s",
            flush=True,
        )
        torch.save(model.state_dict(), kept)
    export(model, out)
    return kept


def _computes_in_bfloat16() -> bool:
    """Twice as fast where the processor has it in hardware; else slower."""
    return bool(torch.cpu.get_capabilities().get("amx_bf16") or torch.cpu.get_capabilities().get("avx512_bf16"))


def _shaken(crops: torch.Tensor) -> torch.Tensor:
    """Each batch moved and faded a little, so that no crop is seen twice the same."""
    up, left = (int(torch.randint(-2, 3, ())) for _ in range(2))
    return (crops.roll((up, left), (2, 3)) * (0.75 + 0.35 * torch.rand(len(crops), 1, 1, 1))).clamp(0, 1)


def measured(model: LabelReader, file: Path) -> str:
    model.eval()
    with np.load(file) as shard, torch.no_grad():
        said = torch.cat(
            [model(torch.from_numpy(part).float().unsqueeze(1) / 255) for part in np.array_split(shard["crops"], 30)]
        )
        wanted = [
            "".join(ALPHABET[sign] for sign in row[:length])
            for row, length in zip(shard["targets"], shard["lengths"], strict=True)
        ]
    read = [spelled(row) for row in said.argmax(2).numpy()]
    labelled = [at for at, one in enumerate(wanted) if one]
    exact = np.mean([read[at] == wanted[at] for at in labelled])
    silent = np.mean([read[at] == "" for at, one in enumerate(wanted) if not one])
    return f"labels {exact:.3f}, nothing where there is none {silent:.3f}"


def spelled(row: np.ndarray) -> str:
    signs, before = [], BLANK
    for sign in row:
        if sign != before and sign != BLANK:
            signs.append(ALPHABET[sign])
        before = sign
    return "".join(signs)


def export(model: LabelReader, out: Path) -> None:
    model.eval()
    torch.onnx.export(
        model, (torch.zeros(2, 1, CROP_HEIGHT, CROP_WIDTH),), str(out), input_names=["crops"], output_names=["signs"],
        dynamic_axes={"crops": {0: "n"}, "signs": {0: "n"}}, opset_version=17, dynamo=False,
    )  # fmt: skip
