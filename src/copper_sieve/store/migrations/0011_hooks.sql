-- Addresses of people's own that are told when a delivery has ended.

-- secret: what is told is signed with it; last_error: why the last call came to nothing
create table hook (
  id bigint generated always as identity primary key,
  project_id bigint not null references project on delete cascade,
  url text not null,
  secret text not null,
  last_called_at timestamptz,
  last_error text,
  created_at timestamptz not null default now()
);

-- told: everybody who wanted to know of its end was told, or was given up
alter table delivery
  add column told boolean not null default false,
  add column tell_attempts integer not null default 0,
  add column tell_after timestamptz not null default now();
update delivery set told = true;
create index delivery_to_tell on delivery (tell_after) where not told;
