-- Where a project's sets go for a target, and what it wants otherwise of the target.

-- folder: an absolute path; pattern: of folders in it, by which each set's files lie
create table destination (
  project_id bigint not null references project on delete cascade,
  target_id text not null,
  folder text not null,
  pattern text not null,
  options json not null,
  primary key (project_id, target_id)
);

alter table delivery_part add column manifest_name text not null default 'manifest.json';
