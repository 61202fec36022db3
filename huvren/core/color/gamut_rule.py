"""The figures of gamut mapping by chroma reduction (CSS Color 4 §13.2), shared by its plain and its compiled form."""

IN_GAMUT_SLACK = 1e-6
JUST_NOTICEABLE = 0.02
CHROMA_STEP = 1e-4
