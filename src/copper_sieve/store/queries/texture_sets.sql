-- name: insert_set
insert into texture_set (project_id, name, definition)
values (%(project_id)s, %(name)s, %(definition)s)
returning id, project_id, name, definition, version, updated_at

-- name: insert_set_source
insert into texture_set_source (set_id, sha256) values (%(set_id)s, %(sha256)s)
on conflict do nothing

-- name: list_sets
select id, project_id, name, definition, version, updated_at
from texture_set where project_id = %(project_id)s order by name

-- name: get_set
select id, project_id, name, definition, version, updated_at
from texture_set where id = %(id)s

-- name: lock_project
-- Two sets that arrive at once must not take the same name.
select id from project where id = %(project_id)s for update

-- name: taken_names
select name from texture_set where project_id = %(project_id)s

-- name: set_of_source
-- The set that was made from a source in this project, if there is one.
select s.id, s.project_id, s.name, s.definition, s.version, s.updated_at
from texture_set s join texture_set_source u on u.set_id = s.id
where s.project_id = %(project_id)s and u.sha256 = %(sha256)s
order by s.id limit 1

-- name: update_set
-- Changes nothing when somebody else was faster (the version differs).
update texture_set
set definition = %(definition)s, version = version + 1, updated_at = now()
where id = %(id)s and version = %(version)s
returning id, project_id, name, definition, version, updated_at
