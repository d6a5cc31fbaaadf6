//! The tables, as steps from an empty file to today.

use rusqlite_migration::{M, Migrations};

/// Every step, oldest first. Steps that have been released are never edited.
pub(crate) fn migrations() -> Migrations<'static> {
    Migrations::new(vec![M::up(
        "
        CREATE TABLE job (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL GENERATED ALWAYS AS (id) VIRTUAL,
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;

        CREATE TABLE note (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        CREATE INDEX note_by_job ON note (job_id);

        CREATE TABLE mark (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        CREATE INDEX mark_by_job ON mark (job_id);

        -- Files in the picture folder, named by the SHA-256 of their bytes.
        CREATE TABLE blob (
            hash  TEXT PRIMARY KEY CHECK (length(hash) = 64),
            bytes INTEGER NOT NULL,
            media TEXT NOT NULL
        ) STRICT;

        CREATE TABLE picture (
            id       TEXT PRIMARY KEY,
            job_id   TEXT NOT NULL REFERENCES job (id),
            rev      INTEGER NOT NULL,
            deleted  INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body     TEXT NOT NULL CHECK (json_valid(body)),
            note_id  TEXT GENERATED ALWAYS AS (body ->> '$.note_id') STORED REFERENCES note (id),
            original TEXT NOT NULL GENERATED ALWAYS AS (body ->> '$.original.hash') STORED REFERENCES blob (hash),
            display  TEXT NOT NULL GENERATED ALWAYS AS (body ->> '$.display.hash') STORED REFERENCES blob (hash),
            thumb    TEXT NOT NULL GENERATED ALWAYS AS (body ->> '$.thumb.hash') STORED REFERENCES blob (hash)
        ) STRICT;
        CREATE INDEX picture_by_job ON picture (job_id);

        -- One row for each entity a change touches; before and after are the whole entity, NULL when it is not there.
        CREATE TABLE journal (
            seq         INTEGER PRIMARY KEY AUTOINCREMENT,
            request     TEXT NOT NULL,
            step        INTEGER NOT NULL,
            fingerprint TEXT NOT NULL,
            at          TEXT NOT NULL,
            who         TEXT NOT NULL,
            job_id      TEXT NOT NULL REFERENCES job (id),
            kind        TEXT NOT NULL CHECK (kind IN ('job', 'note', 'mark', 'picture')),
            entity      TEXT NOT NULL,
            rev         INTEGER NOT NULL,
            before      TEXT CHECK (before IS NULL OR json_valid(before)),
            after       TEXT CHECK (after IS NULL OR json_valid(after)),
            undoes      TEXT,
            UNIQUE (request, step)
        ) STRICT;
        CREATE INDEX journal_by_job ON journal (job_id, seq);
        CREATE INDEX journal_by_undone ON journal (undoes) WHERE undoes IS NOT NULL;
        CREATE INDEX journal_by_entity ON journal (kind, entity, seq);
        ",
    )])
}

#[cfg(test)]
mod tests {
    #[test]
    fn the_steps_can_be_walked() {
        super::migrations().validate().unwrap();
    }
}
