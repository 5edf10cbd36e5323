"""The register of drawings: what each sheet says of itself, and what it showed when it was proofed and issued."""

from __future__ import annotations

from typing import Any

_STATEMENTS = (
    """ALTER TABLE "job" ADD COLUMN "listed" VARCHAR(255) NOT NULL DEFAULT ''""",
    """ALTER TABLE "proof" ADD COLUMN "content" VARCHAR(255) NOT NULL DEFAULT ''""",
    """CREATE TABLE "drawing" ("id" INTEGER NOT NULL PRIMARY KEY, "job_id" INTEGER NOT NULL, "sheet" VARCHAR(255) NOT NULL,
        "content" VARCHAR(255) NOT NULL, "document" TEXT NOT NULL,
        FOREIGN KEY ("job_id") REFERENCES "job" ("id") ON DELETE CASCADE)""",
    'CREATE INDEX "drawing_job_id" ON "drawing" ("job_id")',
    """CREATE TABLE "issuedsheet" ("id" INTEGER NOT NULL PRIMARY KEY, "issue_id" INTEGER NOT NULL, "job" INTEGER NOT NULL,
        "sheet" VARCHAR(255) NOT NULL, "content" VARCHAR(255) NOT NULL,
        FOREIGN KEY ("issue_id") REFERENCES "issue" ("id") ON DELETE CASCADE)""",
    'CREATE INDEX "issuedsheet_issue_id" ON "issuedsheet" ("issue_id")',
    'CREATE INDEX "issuedsheet_job" ON "issuedsheet" ("job")',
    # issues that went out before are told by their plans, which name their sheets; what these showed is not known
    """INSERT INTO "issuedsheet" ("issue_id", "job", "sheet", "content")
        SELECT "issue"."id", "issue"."job", json_extract(page.value, '$.sheet.id'), ''
        FROM "issue", json_each("issue"."plan", '$.pages') AS page""",
)


def forward(database: Any) -> None:
    for statement in _STATEMENTS:
        database.execute_sql(statement)
