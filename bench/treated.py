#!/usr/bin/python3
"""What treatment costs: voices and lines with known truth are scored as they are and as studios, rooms and carriers leave
them. Times do not move.

    bench/treated.py CLI TAKE...

CLI: orthochron-cli. TAKE: a folder with one WAV at 48 kHz and `truth.json`, which has
  of a voice  "f0": [Hz, 0 where there is none], "hop": s, "notes": [{"start": s, "end": s, "midi": n}]
  of a line   "events": [{"onset": s, "onset6": s}], the -20 and -6 dB points of each attack
Needs numpy, scipy, soundfile and, for MP3, ffmpeg."""
import json
import os
import subprocess
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor

import numpy as np
import soundfile
from scipy.signal import butter, correlate, fftconvolve, lfilter

RATE = 48_000


def rms_of_sound(x):
    """Of what is within 40 dB of the peak."""
    return np.sqrt((x[np.abs(x) > .01 * np.abs(x).max()] ** 2).mean())


def hall(x, seconds=1.5, wet=.35):
    t = np.arange(int(1.2 * seconds * RATE)) / RATE
    tail = np.random.default_rng(1).normal(size=len(t)) * 10 ** (-3 * t / seconds)
    tail[:int(.012 * RATE)] = 0
    tail = fftconvolve(x, lfilter(*butter(1, [200 / (RATE / 2), 6000 / (RATE / 2)], "band"), tail))[:len(x)]
    return x + wet * tail * np.sqrt((x ** 2).mean() / max(1e-12, (tail ** 2).mean()))


def bleed(x, under_db=30):
    """A click on the beat, snares off it, and a held chord, at 120 BPM."""
    dice, n = np.random.default_rng(3), len(x)
    y, t = np.zeros(n), np.arange(n) / RATE
    for at in range(0, n, RATE // 2):
        k = np.arange(min(2400, n - at))
        y[at:at + len(k)] += np.sin(2 * np.pi * 1200 * k / RATE) * np.exp(-k / 400)
    for hz in (110, 138.6, 164.8, 220):
        y += .15 * np.sin(2 * np.pi * hz * t) * (1 + .3 * np.sin(np.pi * t))
    for at in range(RATE // 4, n, RATE // 2):
        k = np.arange(min(6000, n - at))
        y[at:at + len(k)] += .6 * dice.normal(size=len(k)) * np.exp(-k / 1200)
    return x + y * rms_of_sound(x) * 10 ** (-under_db / 20) / np.sqrt((y ** 2).mean())


def compressed(x):
    one = 1 - np.exp(-1 / (.02 * RATE))
    level = lfilter([one], [1, one - 1], np.abs(x))
    peak = np.abs(x).max()
    return x * (np.maximum(level, .02 * peak) / (.3 * peak)) ** -.6


def lossy(x):
    peak = np.abs(x).max()
    with tempfile.TemporaryDirectory() as d:
        soundfile.write(d + "/a.wav", .9 * x / peak, RATE)
        for a, b in (("a.wav", "a.mp3"), ("a.mp3", "b.wav")):
            subprocess.run(["ffmpeg", "-loglevel", "error", "-y", "-i", f"{d}/{a}", "-b:a", "96k", f"{d}/{b}"], check=True)
        y = soundfile.read(d + "/b.wav")[0]
    n = min(len(x), len(y), 5 * RATE)
    late = max(0, int(np.argmax(correlate(y[:n], x[:n], "full", method="fft"))) - n + 1)
    y = y[late:late + len(x)]
    return np.pad(y, (0, len(x) - len(y))) * peak / .9


TREATMENTS = {
    "untreated": lambda x: x,
    "hall 1.5 s": hall,
    "bleed -30 dB": bleed,
    "clipped": lambda x: np.clip(x, -.5 * np.abs(x).max(), .5 * np.abs(x).max()),
    "noise -35 dB": lambda x: x + np.random.default_rng(9).normal(size=len(x)) * rms_of_sound(x) * 10 ** (-35 / 20),
    "distorted": lambda x: np.tanh(6 * x / np.abs(x).max()) * np.abs(x).max(),
    "compressed": compressed,
    "mp3 96 kbit/s": lossy,
}


def asked(cli, command, x):
    with tempfile.TemporaryDirectory() as d:
        soundfile.write(d + "/x.wav", .7 * x, RATE, subtype="FLOAT")
        done = subprocess.run([cli, command, d + "/x.wav", "--json"], capture_output=True, text=True)
    return json.loads(done.stdout) if done.returncode == 0 else None


def voice(cli, truth, x):
    """Share of voiced time within 50 cents, of voiced heard so, of unvoiced heard voiced; notes found, told, true."""
    heard = asked(cli, "pitch", x)
    if heard is None:
        return None
    f0 = np.array(truth["f0"], float)
    got = np.array(heard["f0"])[:len(f0)]
    f0 = f0[:len(got)]
    on = f0 > 0
    off = np.abs(1200 * np.log2(np.maximum(got[:, 1], 1) / np.maximum(f0, 1)))
    left = [(n["start"], 69 + 12 * np.log2(n["hz"] / 440)) for n in heard["notes"]]
    told, found = len(left), 0
    for n in truth["notes"]:
        same = [m for m in left if abs(m[0] - n["start"]) <= .05 and abs(m[1] - n["midi"]) < .5]
        if same:
            left.remove(same[0])
            found += 1
    return (off[on] <= 50).mean(), (got[on, 2] >= .5).mean(), (got[~on, 2] >= .5).mean(), found, told, len(truth["notes"])


def line(cli, truth, x):
    """Attacks found within 25 ms, told, true."""
    heard = asked(cli, "hits", x)
    if heard is None:
        return None
    left = [h["time"] for h in heard["hits"]]
    told, found = len(left), 0
    for e in truth["events"]:
        off = [max(0, e["onset"] - t, t - e["onset6"]) for t in left]
        if off and min(off) <= .025:
            left.pop(int(np.argmin(off)))
            found += 1
    return found, told, len(truth["events"])


def score(job):
    cli, folder, name = job
    truth = json.load(open(folder + "/truth.json"))
    wav = sorted(f for f in os.listdir(folder) if f.endswith(".wav"))[-1]
    x = TREATMENTS[name](soundfile.read(f"{folder}/{wav}")[0])
    is_line = "events" in truth
    return name, not is_line, (line if is_line else voice)(cli, truth, x)


def f1(rows):
    found, told, true = np.sum(rows, 0)
    return 2 * found / max(1, told + true)


def main(cli, folders):
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        done = list(pool.map(score, [(cli, f.rstrip("/"), t) for t in TREATMENTS for f in folders]))
    print("treatment       within 50 c  voiced  false voiced  notes F  refused   attacks F, 25 ms")
    for name in TREATMENTS:
        voices = [r for n, v, r in done if n == name and v]
        lines = [r for n, v, r in done if n == name and not v and r]
        heard = [r for r in voices if r]
        row = f"{name:16}"
        if heard:
            within, voiced, false = np.mean([r[:3] for r in heard], 0)
            row += f"{within:11.3f}{voiced:8.3f}{false:14.3f}{f1([r[3:] for r in heard]):9.3f}{len(voices) - len(heard):9d}"
        print(row + (f"{f1(lines):20.3f}" if lines else ""))


if __name__ == "__main__":
    if len(sys.argv) < 3:
        sys.exit(__doc__)
    main(sys.argv[1], sys.argv[2:])
