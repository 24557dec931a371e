"""Works out distances between three sounds by numpy, independently of core: the figures that
core/test/distance.test.ts expects. Run: python3 core/test/outside/distance.py"""
import numpy as np

RATE = 48_000
SECONDS = 2.3
t = np.arange(int(SECONDS * RATE)) / RATE


def sound(name):
    """The same formulas as in the test; samples are float32 as there."""
    beat = np.exp(-7 * (t % 0.37))
    low = np.sin(2 * np.pi * 311 * t) * beat
    high = np.sin(2 * np.pi * (900 * t + 700 * t * t))
    if name == "plain":
        sides = 0.4 * low + 0.1 * high, 0.4 * low - 0.05 * high
    elif name == "bright":
        sides = 0.4 * low + 0.3 * high, 0.4 * low + 0.2 * high
    else:
        beat = 0.5 + 0.5 * np.sin(2 * np.pi * 3 * t)
        sides = 0.5 * low * beat, 0.2 * low * beat + 0.1 * high
    return np.array(sides, dtype=np.float32).astype(float)


def k_weighted(x):
    """ITU-R BS.1770-4, table 1 and 2: coefficients at 48 kHz."""
    def biquad(x, b, a):
        y = np.zeros_like(x)
        x1 = x2 = y1 = y2 = 0.0
        for i, v in enumerate(x):
            w = b[0] * v + b[1] * x1 + b[2] * x2 - a[1] * y1 - a[2] * y2
            x2, x1, y2, y1 = x1, v, y1, w
            y[i] = w
        return y

    y = biquad(x, [1.53512485958697, -2.69169618940638, 1.19839281085285],
               [1, -1.69065929318241, 0.73248077421585])
    return biquad(y, [1, -2, 1], [1, -1.99004745483398, 0.99007225036621])


def loudness(sides):
    power = sum(k_weighted(s) ** 2 for s in sides)
    step = RATE // 10
    steps = [power[i * step:(i + 1) * step].mean() for i in range(len(power) // step)]
    windows = np.array([np.mean(steps[i:i + 4]) for i in range(len(steps) - 3)])
    of = lambda p: -0.691 + 10 * np.log10(p)
    heard = windows[of(windows) > -70]
    return of(heard[of(heard) > of(heard.mean()) - 10].mean())


def mel_weights(size):
    mel = lambda f: 1127 * np.log(1 + f / 700)
    edges = 700 * (np.exp(np.linspace(mel(30), mel(16_000), 65) / 1127) - 1)
    width = RATE / size
    k = np.arange(1, size // 2)
    overlap = lambda a, b: np.clip(np.minimum(b, (k + 0.5) * width) - np.maximum(a, (k - 0.5) * width), 0, None)
    return np.array([overlap(a, b) / width for a, b in zip(edges, edges[1:])])


def windows(side, size, hop):
    count = max(1, int(np.ceil((len(side) - size) / hop)) + 1)
    padded = np.concatenate([side, np.zeros(size)])
    hann = 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(size) / size)
    frames = np.array([padded[i * hop:i * hop + size] * hann for i in range(count)])
    return np.fft.rfft(frames)[:, 1:size // 2]


def in_db(power, floor=1e-8):
    return 10 * np.log10(np.maximum(power, floor))


def traits(sides):
    level = loudness(sides)
    sides = sides * 10 ** ((-23 - level) / 20)
    tone = []
    for size in (512, 2048, 8192):
        weights = mel_weights(size)
        tone.append(np.array([in_db(np.abs(windows(s, size, size // 2)) ** 2 * 16 / size ** 2 @ weights.T)
                              for s in sides]))
    w = mel_weights(2048)
    left, right = (windows(s, 2048, 1024) for s in sides)
    scale = 16 / 2048 ** 2
    power = lambda x: (np.abs(x) ** 2 * scale @ w.T).mean(axis=0)
    n = len(sides[0]) // 480
    mean_square = (sides[:, :n * 480] ** 2).mean(axis=0).reshape(n, 480).mean(axis=1)
    return dict(level=level, tone=tone, envelope=in_db(mean_square), left=power(left), right=power(right),
                middle=power((left + right) / 2), sides=power((left - right) / 2))


def distance(a, b):
    tone = np.mean([np.abs(x - y).mean() for x, y in zip(a["tone"], b["tone"])])
    envelope = np.abs(a["envelope"] - b["envelope"]).mean()
    ratio = lambda x, y: np.clip(10 * np.log10(np.maximum(x, 1e-20) / np.maximum(y, 1e-20)), -40, 40)
    there = (a["left"] + a["right"] >= 1e-8) & (b["left"] + b["right"] >= 1e-8)
    of = lambda top, low: np.abs(ratio(a[top], a[low]) - ratio(b[top], b[low]))[there].mean()
    return dict(total=tone + envelope, tone=tone, envelope=envelope, loudness=abs(a["level"] - b["level"]),
                stereo=(of("sides", "middle") + of("right", "left")) / 2)


made = {name: traits(sound(name)) for name in ("plain", "bright", "swaying")}
for one, other in (("plain", "bright"), ("plain", "swaying"), ("bright", "swaying")):
    print(one, other, {k: round(float(v), 4) for k, v in distance(made[one], made[other]).items()})
