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
    ), M::up(
        "
        -- Openings, fittings, gutter runs counted on a face.
        CREATE TABLE item (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        CREATE INDEX item_by_job ON item (job_id);

        -- What a practice follows. It belongs to no job: it is its own.
        CREATE TABLE practice (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL GENERATED ALWAYS AS (id) VIRTUAL,
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body)),
            name    TEXT GENERATED ALWAYS AS (body ->> '$.name') STORED
        ) STRICT;
        CREATE UNIQUE INDEX practice_by_name ON practice (name) WHERE deleted = 0;

        -- The journal takes more kinds, and the changes of a practice.
        CREATE TABLE journal_2 (
            seq         INTEGER PRIMARY KEY AUTOINCREMENT,
            request     TEXT NOT NULL,
            step        INTEGER NOT NULL,
            fingerprint TEXT NOT NULL,
            at          TEXT NOT NULL,
            who         TEXT NOT NULL,
            job_id      TEXT NOT NULL,
            kind        TEXT NOT NULL CHECK (kind IN ('job', 'note', 'mark', 'picture', 'item', 'practice')),
            entity      TEXT NOT NULL,
            rev         INTEGER NOT NULL,
            before      TEXT CHECK (before IS NULL OR json_valid(before)),
            after       TEXT CHECK (after IS NULL OR json_valid(after)),
            undoes      TEXT,
            UNIQUE (request, step)
        ) STRICT;
        INSERT INTO journal_2 SELECT seq, request, step, fingerprint, at, who, job_id, kind, entity, rev, before, after, undoes FROM journal;
        DROP TABLE journal;
        ALTER TABLE journal_2 RENAME TO journal;
        CREATE INDEX journal_by_job ON journal (job_id, seq);
        CREATE INDEX journal_by_undone ON journal (undoes) WHERE undoes IS NOT NULL;
        CREATE INDEX journal_by_entity ON journal (kind, entity, seq);

        -- When a job last changed, and its row in the list as it was worked out then; NULL until it is worked out again.
        CREATE TABLE touched (
            job_id  TEXT PRIMARY KEY REFERENCES job (id),
            seq     INTEGER NOT NULL,
            at      TEXT NOT NULL,
            summary TEXT CHECK (summary IS NULL OR json_valid(summary))
        ) STRICT;
        CREATE INDEX touched_by_seq ON touched (seq);
        INSERT INTO touched (job_id, seq, at) SELECT job_id, max(seq), max(at) FROM journal GROUP BY job_id;

        -- Words of notes, and of a job's name and address. Kept in step with the tables by the triggers below.
        CREATE VIRTUAL TABLE words USING fts5 (text, job_id UNINDEXED, note_id UNINDEXED, tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3 4 5 6 7');
        -- Every word that stands anywhere.
        CREATE VIRTUAL TABLE words_known USING fts5vocab (words, row);
        CREATE TABLE worded (id TEXT PRIMARY KEY, word_row INTEGER NOT NULL) STRICT, WITHOUT ROWID;
        INSERT INTO words (rowid, text, job_id, note_id)
            SELECT rowid, (body ->> '$.text') || ' ' || coalesce(replace(body ->> '$.condition', '-', ' '), ''), job_id, id FROM note WHERE deleted = 0;
        INSERT INTO worded (id, word_row) SELECT id, rowid FROM note WHERE deleted = 0;

        CREATE TRIGGER note_words_in AFTER INSERT ON note WHEN new.deleted = 0 BEGIN
            INSERT INTO words (text, job_id, note_id)
                VALUES ((new.body ->> '$.text') || ' ' || coalesce(replace(new.body ->> '$.condition', '-', ' '), ''), new.job_id, new.id);
            INSERT INTO worded (id, word_row) VALUES (new.id, last_insert_rowid());
        END;
        CREATE TRIGGER note_words_change AFTER UPDATE ON note BEGIN
            DELETE FROM words WHERE rowid = (SELECT word_row FROM worded WHERE id = new.id);
            DELETE FROM worded WHERE id = new.id;
            INSERT INTO words (text, job_id, note_id)
                SELECT (new.body ->> '$.text') || ' ' || coalesce(replace(new.body ->> '$.condition', '-', ' '), ''), new.job_id, new.id WHERE new.deleted = 0;
            INSERT INTO worded (id, word_row) SELECT new.id, last_insert_rowid() WHERE new.deleted = 0;
        END;
        CREATE TRIGGER job_words_in AFTER INSERT ON job WHEN new.deleted = 0 BEGIN
            INSERT INTO words (text, job_id, note_id) VALUES ((new.body ->> '$.name') || ' ' || coalesce(new.body ->> '$.brief.address', ''), new.id, NULL);
            INSERT INTO worded (id, word_row) VALUES (new.id, last_insert_rowid());
        END;
        CREATE TRIGGER job_words_change AFTER UPDATE ON job BEGIN
            DELETE FROM words WHERE rowid = (SELECT word_row FROM worded WHERE id = new.id);
            DELETE FROM worded WHERE id = new.id;
            INSERT INTO words (text, job_id, note_id)
                SELECT (new.body ->> '$.name') || ' ' || coalesce(new.body ->> '$.brief.address', ''), new.id, NULL WHERE new.deleted = 0;
            INSERT INTO worded (id, word_row) SELECT new.id, last_insert_rowid() WHERE new.deleted = 0;
        END;
        INSERT INTO words (text, job_id, note_id) SELECT (body ->> '$.name') || ' ' || coalesce(body ->> '$.brief.address', ''), id, NULL FROM job WHERE deleted = 0;
        INSERT INTO worded (id, word_row) SELECT job_id, rowid FROM words WHERE note_id IS NULL;
        ",
    ), M::up(
        "
        -- The roof of a job: one at most.
        CREATE TABLE roof (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL UNIQUE REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;

        -- Rain and gutters of a job: one at most.
        CREATE TABLE rainwater (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL UNIQUE REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;

        -- The journal takes any kind there is a table for: the program knows them, the table need not.
        CREATE TABLE journal_3 (
            seq         INTEGER PRIMARY KEY AUTOINCREMENT,
            request     TEXT NOT NULL,
            step        INTEGER NOT NULL,
            fingerprint TEXT NOT NULL,
            at          TEXT NOT NULL,
            who         TEXT NOT NULL,
            job_id      TEXT NOT NULL,
            kind        TEXT NOT NULL,
            entity      TEXT NOT NULL,
            rev         INTEGER NOT NULL,
            before      TEXT CHECK (before IS NULL OR json_valid(before)),
            after       TEXT CHECK (after IS NULL OR json_valid(after)),
            undoes      TEXT,
            UNIQUE (request, step)
        ) STRICT;
        INSERT INTO journal_3 SELECT seq, request, step, fingerprint, at, who, job_id, kind, entity, rev, before, after, undoes FROM journal;
        DROP TABLE journal;
        ALTER TABLE journal_3 RENAME TO journal;
        CREATE INDEX journal_by_job ON journal (job_id, seq);
        CREATE INDEX journal_by_undone ON journal (undoes) WHERE undoes IS NOT NULL;
        CREATE INDEX journal_by_entity ON journal (kind, entity, seq);
        ",
    ),
    M::up(
        "
        CREATE TABLE ground (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL UNIQUE REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        ",
    ),
    M::up(
        "
        -- What each request was answered beside the entities it changed. A retry hears the same.
        CREATE TABLE request (
            id          TEXT PRIMARY KEY,
            fingerprint TEXT NOT NULL,
            told        TEXT NOT NULL CHECK (json_valid(told))
        ) STRICT, WITHOUT ROWID;
        INSERT INTO request (id, fingerprint, told) SELECT request, min(fingerprint), 'null' FROM journal GROUP BY request;
        CREATE INDEX picture_by_original ON picture (job_id, original);
        ",
    ),
    M::up(
        "
        CREATE TABLE walls (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL UNIQUE REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        ",
    ),
    M::up(
        "
        CREATE TABLE moisture (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL UNIQUE REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        CREATE TABLE trace (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL UNIQUE REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        ",
    ),
    M::up(
        "
        CREATE TABLE storm (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL UNIQUE REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        ",
    ),
    M::up(
        "
        CREATE TABLE building (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL GENERATED ALWAYS AS (id) VIRTUAL,
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        CREATE TABLE return_visit (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL UNIQUE REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        CREATE TABLE said (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        CREATE INDEX said_by_job ON said (job_id);
        CREATE TABLE link (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        CREATE INDEX link_by_job ON link (job_id);
        -- Which jobs belong to a building.
        ALTER TABLE job ADD COLUMN building TEXT GENERATED ALWAYS AS (body ->> '$.building') VIRTUAL;
        CREATE INDEX job_by_building ON job (building) WHERE building IS NOT NULL;
        -- What left the house: no change of a job, so nothing that undo could take back.
        CREATE TABLE export (
            seq    INTEGER PRIMARY KEY AUTOINCREMENT,
            job_id TEXT NOT NULL REFERENCES job (id),
            at     TEXT NOT NULL,
            who    TEXT NOT NULL,
            body   TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        CREATE INDEX export_by_job ON export (job_id);
        ",
    ),
    M::up(
        "
        CREATE TABLE stop (
            id      TEXT PRIMARY KEY,
            job_id  TEXT NOT NULL REFERENCES job (id),
            rev     INTEGER NOT NULL,
            deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1)),
            body    TEXT NOT NULL CHECK (json_valid(body))
        ) STRICT;
        CREATE INDEX stop_by_job ON stop (job_id);
        ",
    )])
}

/// The form this program reads and writes: as many steps as there are above.
pub(crate) const FORM: i64 = 10;

#[cfg(test)]
mod tests {
    /// A folder of the first form keeps everything and can be searched afterwards.
    #[test]
    fn a_folder_of_the_first_form_is_brought_up_to_date() {
        let mut c = rusqlite::Connection::open_in_memory().unwrap();
        let steps = super::migrations();
        steps.to_version(&mut c, 1).unwrap();
        c.execute_batch(
            r#"INSERT INTO job (id, rev, body) VALUES ('j', 1, '{"name":"Heron","brief":{"address":"Lake Lane"}}');
               INSERT INTO note (id, job_id, rev, body) VALUES ('n', 'j', 1, '{"text":"torn boot","condition":"pipe-boot-torn"}');
               INSERT INTO journal (request, step, fingerprint, at, who, job_id, kind, entity, rev, after) VALUES ('r', 0, 'f', '2026-11-20T08:00:00Z', 'Ida', 'j', 'job', 'j', 1, '{}');
               INSERT INTO journal (request, step, fingerprint, at, who, job_id, kind, entity, rev, after) VALUES ('s', 0, 'f', '2026-11-21T08:00:00Z', 'Ida', 'j', 'note', 'n', 1, '{}');"#,
        )
        .unwrap();
        steps.to_latest(&mut c).unwrap();
        let one = |sql: &str| c.query_row(sql, [], |r| r.get::<_, i64>(0)).unwrap();
        assert_eq!(one("SELECT count(*) FROM journal"), 2);
        assert_eq!(one("SELECT seq FROM touched WHERE job_id = 'j'"), 2);
        assert_eq!(one("SELECT count(*) FROM words WHERE words MATCH 'boot'"), 1);
        assert_eq!(one("SELECT count(*) FROM words WHERE words MATCH 'lake'"), 1);
        c.execute("UPDATE note SET body = '{\"text\":\"moss\"}', rev = 2 WHERE id = 'n'", []).unwrap();
        assert_eq!(
            (one("SELECT count(*) FROM words WHERE words MATCH 'boot'"), one("SELECT count(*) FROM words WHERE words MATCH 'moss'")),
            (0, 1)
        );
    }

    /// A folder of the second form keeps its history, its order and what can be undone, and takes a roof: one for each job.
    #[test]
    fn a_folder_of_the_second_form_takes_a_roof() {
        let mut c = rusqlite::Connection::open_in_memory().unwrap();
        let steps = super::migrations();
        steps.to_version(&mut c, 2).unwrap();
        c.execute_batch(
            r#"INSERT INTO job (id, rev, body) VALUES ('j', 1, '{"name":"Heron"}');
               INSERT INTO journal (seq, request, step, fingerprint, at, who, job_id, kind, entity, rev, after) VALUES (7, 'r', 0, 'f', '2026-11-20T08:00:00Z', 'Ida', 'j', 'job', 'j', 1, '{}');
               INSERT INTO journal (seq, request, step, fingerprint, at, who, job_id, kind, entity, rev, after, undoes) VALUES (9, 's', 0, 'f', '2026-11-21T08:00:00Z', 'Ida', 'j', 'item', 'i', 1, '{}', 'r');"#,
        )
        .unwrap();
        assert!(c.execute("INSERT INTO journal (request, step, fingerprint, at, who, job_id, kind, entity, rev) VALUES ('t', 0, 'f', 'x', 'Ida', 'j', 'roof', 'j:roof', 1)", []).is_err(), "the second form knew no roof");
        steps.to_latest(&mut c).unwrap();
        let rows: Vec<(i64, String, Option<String>)> = c
            .prepare("SELECT seq, kind, undoes FROM journal ORDER BY seq")
            .unwrap()
            .query_map([], |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?)))
            .unwrap()
            .collect::<Result<_, _>>()
            .unwrap();
        assert_eq!(rows, [(7, "job".into(), None), (9, "item".into(), Some("r".into()))]);
        for table in ["roof", "rainwater", "ground", "walls", "moisture", "trace", "storm"] {
            let put = |id: &str| c.execute(&format!("INSERT INTO {table} (id, job_id, rev, body) VALUES (?1, 'j', 1, '{{}}')"), [id]);
            put("one").unwrap();
            assert!(put("two").is_err(), "a job has one {table}");
            assert!(c.execute(&format!("INSERT INTO {table} (id, job_id, rev, body) VALUES ('x', 'nowhere', 1, '{{}}')"), []).is_err());
        }
        c.execute("INSERT INTO journal (request, step, fingerprint, at, who, job_id, kind, entity, rev) VALUES ('t', 0, 'f', 'x', 'Ida', 'j', 'roof', 'j:roof', 1)", []).unwrap();
        assert_eq!(c.last_insert_rowid(), 10, "numbers go on");
    }

    #[test]
    fn the_steps_can_be_walked_and_lead_to_the_form_that_is_read() {
        super::migrations().validate().unwrap();
        let mut c = rusqlite::Connection::open_in_memory().unwrap();
        super::migrations().to_latest(&mut c).unwrap();
        assert_eq!(c.pragma_query_value(None, "user_version", |r| r.get::<_, i64>(0)).unwrap(), super::FORM);
    }
}
