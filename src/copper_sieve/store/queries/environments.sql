-- name: insert_environment
insert into environment (project_id, sha256, name, kind, lamp, strength, mean)
values (%(project_id)s, %(sha256)s, %(name)s, %(kind)s, %(lamp)s, %(strength)s, %(mean)s)
on conflict (project_id, sha256) do update set kind = excluded.kind, lamp = excluded.lamp,
  strength = excluded.strength, mean = excluded.mean
returning id, project_id, sha256, name, kind, lamp, strength, mean, created_at

-- name: list_environments
select id, project_id, sha256, name, kind, lamp, strength, mean, created_at from environment
where project_id = %(project_id)s order by lower(name), id

-- name: get_environment
select id, project_id, sha256, name, kind, lamp, strength, mean, created_at from environment
where id = %(id)s

-- name: delete_environment
delete from environment where id = %(id)s returning sha256
