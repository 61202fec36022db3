"""A ramp as a polynomial in a few lines of code, with the largest error it makes: for shaders without a table."""

from collections.abc import Mapping

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.difference import delta_eok
from huvren.core.color.spaces import convert
from huvren.core.formats.format import FORMATS, Document, Format, Keeps, Option, RampKeeps
from huvren.core.formats.style_sheets.css_properties import slug
from huvren.core.ramp.baking import Baked
from huvren.core.ramp.plan import RampPlan, plain_only
from huvren.core.ramp.values import Ramp

LANGUAGE = Option("language", "written in", (("shader", "shader code"), ("python", "Python")))
DEGREE = Option("degree", "with terms up to", tuple((str(n), f"t to the {n}th") for n in (6, 3, 4, 5, 7, 8)))
SAMPLES = 257
DIGITS = 6


def terms(ramp: Ramp, degree: int) -> Floats:
    """(degree + 1, 3) least-squares coefficients of sRGB over t, lowest first, rounded as they are written.

    Parameters
    ----------
    ramp : Ramp
        Any ramp.
    degree : int
        Of the polynomial.

    Returns
    -------
    Floats
        (degree + 1, 3).
    """
    shares = np.linspace(0, 1, SAMPLES)
    srgb, _, _ = ramp.shown(shares)
    fitted = np.polynomial.polynomial.polyfit(shares, srgb, degree)
    return np.round(fitted, DIGITS)


def drawn(coefficients: Floats, shares: Floats) -> Floats:
    """(n, 3) sRGB 0..1 that the code gives.

    Parameters
    ----------
    coefficients : Floats
        (degree + 1, 3), lowest first.
    shares : Floats
        (n,) 0..1.

    Returns
    -------
    Floats
        (n, 3) sRGB 0..1.
    """
    return np.clip(np.polynomial.polynomial.polyval(shares, coefficients).T, 0, 1)


def held_ramp(plan: RampPlan, options: Mapping[str, str]) -> Baked:
    degree = int(options.get("degree", DEGREE.choices[0][0]))
    shares = np.linspace(0, 1, 4 * SAMPLES)
    srgb = drawn(terms(plan.ramp(plain_only), degree), shares)
    return Baked(shares, srgb, np.ones(len(shares)), 0.0)


def write(document: Document) -> bytes:
    """Horner's form; the first comment says the largest ΔE."""
    name, _, ramp = document.ramp
    degree = int(WRITER.option(document, "degree"))
    language = WRITER.option(document, "language")
    found = terms(ramp, degree)
    shares = np.linspace(0, 1, SAMPLES)
    wanted = ramp.shown(shares)[0]
    worst = float(np.max(delta_eok(convert(drawn(found, shares), "srgb", "oklab"), convert(wanted, "srgb", "oklab"))))
    said = f"{' '.join(name.split())}: degree {degree}, largest difference ΔE {worst:.2f}; t from 0 to 1, sRGB 0 to 1"
    known = slug(name, {}).replace("-", "_")
    if language == "python":
        rows = [f"    ({', '.join(f'{value:.{DIGITS}f}' for value in row)})," for row in found.tolist()]
        lines = [f"# {said}", "TERMS = ["] + rows + [
            "]", "", "", f"def {known}(t):", "    channels = [0.0, 0.0, 0.0]", "    for row in reversed(TERMS):",
            "        channels = [value * t + term for value, term in zip(channels, row)]",
            "    return [min(max(value, 0.0), 1.0) for value in channels]",
        ]  # fmt: skip
    else:
        vectors = [f"vec3({', '.join(f'{value:.{DIGITS}f}' for value in row)})" for row in found.tolist()]
        body = vectors[-1]
        for vector in vectors[-2::-1]:
            body = f"{vector}\n    + t * ({body})"
        lines = [f"// {said}", f"vec3 {known}(float t) {{", f"  return clamp({body}, 0.0, 1.0);", "}"]
    return ("\n".join(lines) + "\n").encode()


WRITER = FORMATS.register(
    Format(
        "polynomial-code", (".txt",), "polynomial", "code", "text/plain; charset=utf-8", Keeps(title=True),
        "The ramp as a short formula in code, for shaders without a table.", contents=frozenset({"ramps"}),
        ramp=RampKeeps("samples", held_ramp, alpha=False), is_text=True, options=(LANGUAGE, DEGREE), write=write,
    )
)  # fmt: skip
