-- What is delivered by itself as soon as it changed.

-- set_id null: every set of the project for that target; both null: every cell of the project that
-- was delivered once.
create table kept_up (
  project_id bigint not null references project on delete cascade,
  set_id bigint references texture_set on delete cascade,
  target_id text
);
create unique index kept_up_once on kept_up
  (project_id, coalesce(set_id, 0), coalesce(target_id, ''));
