-- When a key ends by itself; nothing where it does not.
ALTER TABLE access_key ADD COLUMN expires_at INTEGER;
