-- People as a directory provisions them (SCIM 2.0): what it calls them, and the groups that it puts them in.
CREATE TABLE provisioned (
    actor INTEGER PRIMARY KEY REFERENCES actor,
    user_name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    external_id TEXT NOT NULL,
    changed_at INTEGER NOT NULL
) STRICT;
CREATE TABLE provisioned_group (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    external_id TEXT NOT NULL,
    at INTEGER NOT NULL,
    changed_at INTEGER NOT NULL
) STRICT;
CREATE TABLE provisioned_member (
    "group" INTEGER NOT NULL REFERENCES provisioned_group,
    actor INTEGER NOT NULL REFERENCES actor,
    PRIMARY KEY ("group", actor)
) STRICT, WITHOUT ROWID;
CREATE INDEX provisioned_member_of ON provisioned_member (actor);
