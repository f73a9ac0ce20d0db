-- What was found when sets were looked over, and what of it is so on purpose.

-- version : of the set that was looked over; key : of what the findings depend on
-- problem : why it could not be looked over; null where it was
create table checklist (
  set_id bigint primary key references texture_set on delete cascade,
  version integer not null,
  rules integer not null,
  key text not null,
  findings jsonb not null,
  problem text
);
create index checklist_key on checklist (key);

create table on_purpose (
  set_id bigint not null references texture_set on delete cascade,
  finding text not null,
  primary key (set_id, finding)
);
