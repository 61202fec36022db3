"""The commands, one file each: `DESCRIPTION`, `arguments(parser)` and `run(options)`. A file is imported when it is called,
so that listing formats does not wait for what reduces pictures."""

COMMANDS = {
    "reduce": "reduce pictures to few colors",
    "curve": "how many colors a picture needs",
    "ramp": "colors between colors",
    "ramp-check": "whether a ramp keeps what its kind promises",
    "ramp-fit": "a ramp read from a line across a picture",
    "check": "the questions a palette answers before it leaves",
    "lens": "a palette or picture as another eye or screen shows it",
    "merge": "merge near twins",
    "sort": "sort a palette",
    "mix": "mix colors by parts",
    "match": "each swatch and its nearest in another palette",
    "convert": "palette files into another format",
    "inspect": "say what a picture or palette file holds",
    "formats": "list the formats that can be read and written",
}
