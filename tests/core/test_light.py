"""To evaluate a document takes neither decoder nor compiler: a page is answered before either is loaded."""

import subprocess
import sys


def test_to_evaluate_takes_no_decoder_and_no_compiler():
    code = (
        "import sys; from nervykite.core.draw.picture.evaluate import Evaluation; import nervykite.core.change.edits;"
        "from nervykite.core.piece.model import Source, FinishKind, Arrangement;"
        "[f.family.all() for f in (Source, FinishKind, Arrangement)];"
        "print([m for m in ('av', 'numba', 'sqlite3', 'fastapi') if m in sys.modules])"
    )
    answer = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert answer.stdout.strip() == "[]"
