-- name: insert_model
insert into model (project_id, sha256, name, facts)
values (%(project_id)s, %(sha256)s, %(name)s, %(facts)s)
on conflict (project_id, sha256) do update set name = model.name
returning id

-- name: list_models
select m.id, m.project_id, m.sha256, m.name, s.bytes, m.facts, m.created_at
from model m join source s using (sha256)
where m.project_id = %(project_id)s order by lower(m.name), m.id

-- name: get_model
select m.id, m.project_id, m.sha256, m.name, s.bytes, m.facts, m.created_at
from model m join source s using (sha256) where m.id = %(id)s

-- name: of_sources
-- The same file may be a model of several projects, and what is known of it is the same.
select distinct on (m.sha256) m.id, m.project_id, m.sha256, m.name, s.bytes, m.facts, m.created_at
from model m join source s using (sha256) where m.sha256 = any(%(sha256s)s)
order by m.sha256, m.id

-- name: copy_models
insert into model (project_id, sha256, name, facts)
select distinct on (sha256) %(project_id)s::bigint, sha256, name, facts from model
where sha256 = any(%(sha256s)s) order by sha256, id
on conflict (project_id, sha256) do nothing

-- name: delete_model
delete from model where id = %(id)s returning sha256

-- name: linked_sets
-- The sets of a project that are made for a model, or that take their relief from it.
select id, name, definition -> 'model' ->> 'source' as source,
  coalesce(definition -> 'model' ->> 'high_poly', definition -> 'model' ->> 'detailed') as high_poly,
  definition -> 'model' ->> 'material' as material
from texture_set
where project_id = %(project_id)s and deleted_at is null
  and definition -> 'model' ->> 'source' is not null
order by updated_at desc, id

-- name: source_file
-- The name of any source, picture or model.
select sha256, name, bytes from source where sha256 = %(sha256)s
