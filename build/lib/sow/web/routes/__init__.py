"""Every route of the API, one file for each subject."""

import sys

from ...core.document.entry import load_folder

load_folder(sys.modules[__name__])
