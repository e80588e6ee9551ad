-- Passkeys (Web Authentication): what people log in with by their device, alone or after the password.
CREATE TABLE passkey (
    id INTEGER PRIMARY KEY,
    uuid TEXT NOT NULL UNIQUE,
    actor INTEGER NOT NULL REFERENCES actor,
    credential BLOB NOT NULL UNIQUE,
    public_key BLOB NOT NULL,
    counter INTEGER NOT NULL,
    transports TEXT NOT NULL,
    name TEXT NOT NULL,
    at INTEGER NOT NULL,
    used_at INTEGER
) STRICT;
CREATE INDEX passkey_of ON passkey (actor);
-- What devices call the people of this house: said of nobody anything else.
CREATE TABLE passkey_user (
    actor INTEGER PRIMARY KEY REFERENCES actor,
    name BLOB NOT NULL UNIQUE
) STRICT;
-- An answer of a device is taken once.
CREATE TABLE passkey_answer (
    challenge_hash TEXT PRIMARY KEY,
    at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX passkey_answer_at ON passkey_answer (at);
