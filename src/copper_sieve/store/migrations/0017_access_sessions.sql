-- Sessions of browsers that presented the access token.

-- key: HMAC-SHA256 of the session's random value, keyed by the access token. It can't be computed
-- from this table, and no session outlives the token that it was opened with.
create table access_session (
  key bytea primary key,
  created_at timestamptz not null default now(),
  expires_at timestamptz not null
);
create index access_session_expires_at on access_session (expires_at);
