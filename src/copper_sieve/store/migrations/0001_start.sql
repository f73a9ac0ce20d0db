-- Projects, sources with their bytes, texture sets, deliveries.
-- Definitions, presets and manifests are json, not jsonb: the order of their maps and channels counts.

create table project (
  id bigint generated always as identity primary key,
  slug text not null unique check (slug ~ '^[a-z0-9][a-z0-9-]{0,63}$'),
  title text not null check (title <> ''),
  created_at timestamptz not null default now()
);

-- The file as it came in, content-addressed; its bytes are in source_chunk.
create table source (
  sha256 text primary key check (sha256 ~ '^[0-9a-f]{64}$'),
  name text not null,
  bytes bigint not null check (bytes > 0),
  facts jsonb not null,
  thumbnail bytea not null,
  created_at timestamptz not null default now()
);

create table source_chunk (
  sha256 text not null references source on delete cascade,
  n integer not null check (n >= 0),
  data bytea not null,
  primary key (sha256, n)
);
-- Pictures are compressed already: keep PostgreSQL from trying again.
alter table source_chunk alter column data set storage external;

-- version counts the changes, so that two editors cannot overwrite each other unawares.
create table texture_set (
  id bigint generated always as identity primary key,
  project_id bigint not null references project on delete cascade,
  name text not null,
  definition json not null,
  version integer not null default 1,
  created_at timestamptz not null default now(),
  updated_at timestamptz not null default now(),
  unique (project_id, name)
);

create table texture_set_source (
  set_id bigint not null references texture_set on delete cascade,
  sha256 text not null references source,
  primary key (set_id, sha256)
);

create table delivery (
  id bigint generated always as identity primary key,
  project_id bigint not null references project on delete cascade,
  state text not null default 'queued'
    check (state in ('queued', 'running', 'done', 'failed', 'cancelled')),
  progress real not null default 0,
  step text not null default '',
  error text,
  cancel_requested boolean not null default false,
  attempts integer not null default 0,
  created_at timestamptz not null default now(),
  started_at timestamptz,
  finished_at timestamptz
);
create index delivery_unfinished on delivery (id) where state in ('queued', 'running');

-- One set for one target; definition and preset as they were when the delivery was asked for.
create table delivery_part (
  delivery_id bigint not null references delivery on delete cascade,
  n integer not null,
  set_id bigint references texture_set on delete set null,
  target_id text not null,
  definition json not null,
  preset json not null,
  longer_side integer,
  folder text not null,
  manifest json,
  assay json,
  primary key (delivery_id, n)
);
create index delivery_part_of_set on delivery_part (set_id, target_id, delivery_id desc);
