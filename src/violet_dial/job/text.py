"""Text in the job document: how long a line and a longer text may be."""

from typing import Annotated

from annotated_types import MaxLen

Line = Annotated[str, MaxLen(300)]
Text = Annotated[str, MaxLen(20_000)]
Hash = Annotated[str, MaxLen(64)]  # of a photo's content, SHA-256 in hexadecimal, or nothing
