"""How much a ground repeats itself."""

import numpy as np
from scipy.ndimage import maximum_filter


def repetition(picture: np.ndarray, least: int = 24) -> float:
    """The highest peak of the autocorrelation of a picture (rows, columns[, channels]) further out
    than `least` px: 1 for a plain repeat, near 0 where none can be seen. The slow change over the
    picture is taken off first (by the power spectrum; Wiener & Khinchin).
    """
    grey = picture.mean(-1) if picture.ndim == 3 else picture
    grey = np.asarray(grey, np.float64)
    window = np.hanning(grey.shape[0])[:, None] * np.hanning(grey.shape[1])[None, :]
    field = (grey - grey.mean()) * window
    size = [2 * n for n in grey.shape]
    power = np.abs(np.fft.rfft2(field, size)) ** 2
    fy = np.fft.fftfreq(size[0])[:, None]
    fx = np.fft.rfftfreq(size[1])[None, :]
    power *= 1 - np.exp(-((fy**2 + fx**2) * (3 * least) ** 2))
    like = np.fft.irfft2(power, size)
    fade = np.fft.irfft2(np.abs(np.fft.rfft2(window, size)) ** 2, size)
    like = like / like[0, 0] / np.maximum(fade / fade[0, 0], 0.08)
    y = np.minimum(np.arange(size[0]), size[0] - np.arange(size[0]))[:, None]
    x = np.minimum(np.arange(size[1]), size[1] - np.arange(size[1]))[None, :]
    peaks = np.where(
        like == maximum_filter(like, 9, mode="wrap"), like, 0
    )  # peaks, not the slope of the middle one
    far = (np.hypot(y, x) > least) & (y < grey.shape[0] // 2) & (x < grey.shape[1] // 2)
    return float(peaks[far].max())
