-- Who logs in through an identity provider: by what it calls them, which stays when their name or address changes.
CREATE TABLE provider_account (
    issuer TEXT NOT NULL,
    subject TEXT NOT NULL,
    actor INTEGER NOT NULL REFERENCES actor,
    at INTEGER NOT NULL,
    PRIMARY KEY (issuer, subject)
) STRICT, WITHOUT ROWID;
CREATE INDEX provider_account_of ON provider_account (actor);
-- Log-ins that were begun and lead to the provider and back: each comes back once.
CREATE TABLE provider_log_in (
    state_hash TEXT PRIMARY KEY,
    browser_hash TEXT NOT NULL,
    nonce TEXT NOT NULL,
    verifier TEXT NOT NULL,
    at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX provider_log_in_at ON provider_log_in (at);
-- Sessions that the provider may end, by what it calls its own.
CREATE TABLE provider_session (
    token_hash TEXT PRIMARY KEY REFERENCES session,
    issuer TEXT NOT NULL,
    subject TEXT NOT NULL,
    name TEXT NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX provider_session_of ON provider_session (issuer, subject);
CREATE INDEX provider_session_named ON provider_session (issuer, name);
-- What a provider said once is not taken twice.
CREATE TABLE provider_word (
    id TEXT PRIMARY KEY,
    at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
