-- Every kept state of a set, so that changes can be undone and redone, also after a reload.

create table texture_set_history (
  set_id bigint not null references texture_set on delete cascade,
  n integer not null,
  definition json not null,
  created_at timestamptz not null default now(),
  primary key (set_id, n)
);

-- history_n: which kept state the set shows now.
alter table texture_set add column history_n integer not null default 0;

insert into texture_set_history (set_id, n, definition)
select id, 0, definition from texture_set;
