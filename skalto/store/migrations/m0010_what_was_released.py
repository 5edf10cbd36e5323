"""Of what each file of a release is, so that the register of drawings knows which release a sheet was in."""

from __future__ import annotations

import json
from typing import Any


def forward(database: Any) -> None:
    database.execute_sql("""ALTER TABLE "releasefile" ADD COLUMN "subject" VARCHAR(255) NOT NULL DEFAULT ''""")
    database.execute_sql('CREATE INDEX "releasefile_subject" ON "releasefile" ("subject")')
    # a row at a time: the work of a sheet is large
    for (row,) in database.execute_sql("SELECT id FROM releasefile").fetchall():
        (work,) = database.execute_sql("SELECT work FROM releasefile WHERE id = ?", (row,)).fetchone()
        try:
            planned = json.loads(work)["planned"]
            kind, subject = str(planned["kind"]), str(planned["subject"])
        except (ValueError, KeyError, TypeError):
            continue
        told = f"{kind if kind in ('sheet', 'pack', 'job') else 'part'}:{subject}"[:255]
        database.execute_sql("UPDATE releasefile SET subject = ? WHERE id = ?", (told, row))
