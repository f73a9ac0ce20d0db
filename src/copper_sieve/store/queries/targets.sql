-- name: list_targets
select id, version, definition from target order by id

-- name: get_target
select id, version, definition from target where id = %(id)s

-- name: insert_target
insert into target (id, definition) values (%(id)s, %(definition)s)
on conflict (id) do nothing
returning id, version, definition

-- name: update_target
update target set definition = %(definition)s, version = version + 1, updated_at = now()
where id = %(id)s and version = %(version)s
returning id, version, definition

-- name: delete_target
delete from target where id = %(id)s returning id
