-- name: add_capture_group
insert into capture_group (project_id, batch, arrivals, sha256s, name)
values (%(project_id)s, %(batch)s, %(arrivals)s, %(sha256s)s, %(name)s)
returning id

-- name: list_capture_groups
select id, project_id, batch, arrivals, sha256s, name, state, captures, error from capture_group
where project_id = %(project_id)s order by id

-- name: get_capture_group
select id, project_id, batch, arrivals, sha256s, name, state, captures, error from capture_group
where id = %(id)s for update

-- name: known_captures
-- What was found of the very same pictures before, in any project.
select captures from capture_group where sha256s = %(sha256s)s and captures is not null
order by id desc limit 1

-- name: set_capture_group
update capture_group set state = %(state)s, captures = %(captures)s, error = %(error)s
where id = %(id)s and state in ('looking', 'refused')

-- name: decide_capture_group
update capture_group set state = %(state)s where id = %(id)s
