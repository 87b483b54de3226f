"""How the documentation is built: ``./run docs``, with Sphinx, without a network. The pages below ``methods/`` are
written first, from what the program itself reads."""

import os
import sys
from pathlib import Path

HERE = Path(__file__).parent
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(HERE.parent / "scripts"))

import method_notes

from cryonome.version import VERSION

method_notes.write(HERE / "methods")

project, release, language = "Cryonome", VERSION, "en"
copyright = ""
extensions = ["myst_parser", "sphinx.ext.autodoc"]
exclude_patterns = ["README.md"]
# Links to code and to pages that stand outside this folder are for whoever reads them where they lie.
suppress_warnings = ["myst.xref_missing", "myst.header", "misc.highlighting_failure"]
myst_heading_anchors = 3
autodoc_member_order = "bysource"
autodoc_typehints = "signature"
autodoc_type_aliases = {"Array": "Array", "Quantities": "Quantities"}
html_theme = "furo"
html_title = f"Cryonome {VERSION}"
html_show_copyright = html_show_sphinx = False
html_copy_source = False
