-- Projects and sets live long: tags and notes, thrown away and brought back, changed many at once.

alter table project add column deleted_at timestamptz;

alter table texture_set
  add column tags text[] not null default '{}',
  add column notes text not null default '',
  add column deleted_at timestamptz;

-- A name is free again once its set is thrown away.
alter table texture_set drop constraint texture_set_project_id_name_key;
create unique index texture_set_name on texture_set (project_id, lower(name))
  where deleted_at is null;

-- Two sets or presets that read the same have the same key: thousands are compared by it.
alter table texture_set add column definition_key text
  generated always as (md5(definition::text)) stored;
alter table delivery_part
  add column definition_key text generated always as (md5(definition::text)) stored,
  add column preset_key text generated always as (md5(preset::text)) stored;

-- One change of any number of sets, with what is needed to take it back and to do it again.
-- steps: for each set its number, the field, and its value before and after.
create table tray_change (
  id bigint generated always as identity primary key,
  project_id bigint not null references project on delete cascade,
  title text not null,
  steps json not null,
  undone boolean not null default false,
  created_at timestamptz not null default now()
);
create index tray_change_of_project on tray_change (project_id, id);
