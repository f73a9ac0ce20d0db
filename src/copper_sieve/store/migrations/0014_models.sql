-- Models that texture sets are made for; their bytes are sources like those of pictures.
-- Which set lies on which material of a model is said in the set's definition.

-- facts : triangles, UV sets, materials; see core/models/model_facts.py
create table model (
  id bigint generated always as identity primary key,
  project_id bigint not null references project on delete cascade,
  sha256 text not null references source,
  name text not null check (name <> ''),
  facts json not null,
  created_at timestamptz not null default now(),
  unique (project_id, sha256)
);
create index model_of_source on model (sha256);
