-- Every foreign key has an index, so that deleting what it refers to doesn't read whole tables.

create index texture_set_source_sha256 on texture_set_source (sha256);
create index arrival_sha256 on arrival (sha256);
create index arrival_set_id on arrival (set_id);
create index recipe_source_sha256 on recipe_source (sha256);
create index delivery_project_id on delivery (project_id);
create index kept_up_set_id on kept_up (set_id);
create index texture_set_project_id on texture_set (project_id);

-- A database that was migrated on the day when 0008 was written may lack this column.
alter table delivery_part add column if not exists stamps json;
