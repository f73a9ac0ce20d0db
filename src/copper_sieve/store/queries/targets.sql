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

-- name: rename_target
update target set id = %(new)s where id = %(id)s and version = %(version)s

-- name: rename_in_deliveries
update delivery_part set target_id = %(new)s where target_id = %(id)s

-- name: rename_in_destinations
update destination set target_id = %(new)s where target_id = %(id)s

-- name: rename_in_auto_deliver
update auto_deliver set target_id = %(new)s where target_id = %(id)s

-- name: delete_target
delete from target where id = %(id)s returning id
