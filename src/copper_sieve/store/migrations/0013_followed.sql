-- Folders of the server that a project takes pictures from and keeps in step with; files that were
-- taken off the table of Intake can be brought back for 30 days.

-- keeps : it is looked at again and again, else once; problem : why it cannot be looked at
create table followed_folder (
  id bigint generated always as identity primary key,
  project_id bigint not null references project on delete cascade,
  path text not null,
  keeps boolean not null,
  looked_at timestamptz,
  problem text,
  created_at timestamptz not null default now(),
  unique (project_id, path)
);

-- name : of the file in the folder; size and mtime_ns as it was when it was read
-- sha256 : of what was read; null for an archive and for what could not be read
create table followed_file (
  folder_id bigint not null references followed_folder on delete cascade,
  name text not null,
  size bigint not null,
  mtime_ns bigint not null,
  sha256 text,
  problem text,
  gone boolean not null default false,
  primary key (folder_id, name)
);

alter table arrival add column dismissed_at timestamptz;
