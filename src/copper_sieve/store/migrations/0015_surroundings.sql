-- Surroundings of a project that materials are looked at in; their pictures are sources.

-- kind : panorama, or the photo of a mirror_ball
-- lamp : direction of the brightest place, x y z, y up; strength : times the mean, a luminance
create table surrounding (
  id bigint generated always as identity primary key,
  project_id bigint not null references project on delete cascade,
  sha256 text not null references source,
  name text not null check (name <> ''),
  kind text not null check (kind in ('panorama', 'mirror_ball')),
  lamp real[] not null check (array_length(lamp, 1) = 3),
  strength real not null,
  mean real not null,
  created_at timestamptz not null default now(),
  unique (project_id, sha256)
);
create index surrounding_of_source on surrounding (sha256);
