-- name: add_noticed
insert into noticed_surface (project_id, batch, arrivals, sha256s, name)
values (%(project_id)s, %(batch)s, %(arrivals)s, %(sha256s)s, %(name)s)
returning id

-- name: list_noticed
select id, project_id, batch, arrivals, sha256s, name, state, shots, error from noticed_surface
where project_id = %(project_id)s order by id

-- name: get_noticed
select id, project_id, batch, arrivals, sha256s, name, state, shots, error from noticed_surface
where id = %(id)s for update

-- name: known_shots
-- What was found of the very same pictures before, in any project.
select shots from noticed_surface where sha256s = %(sha256s)s and shots is not null
order by id desc limit 1

-- name: set_noticed
update noticed_surface set state = %(state)s, shots = %(shots)s, error = %(error)s
where id = %(id)s and state in ('looking', 'refused')

-- name: decide_noticed
update noticed_surface set state = %(state)s where id = %(id)s
