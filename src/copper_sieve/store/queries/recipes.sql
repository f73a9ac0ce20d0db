-- name: list_recipes
select id, name, definition, updated_at from recipe order by lower(name)

-- name: get_recipe
select id, name, definition, updated_at from recipe where id = %(id)s

-- name: find_recipe
select id from recipe where name = %(name)s

-- name: put_recipe
insert into recipe (name, definition) values (%(name)s, %(definition)s)
on conflict (name) do update set definition = excluded.definition, updated_at = now()
returning id, name, definition, updated_at

-- name: forget_recipe_sources
delete from recipe_source where recipe_id = %(id)s

-- name: insert_recipe_source
insert into recipe_source (recipe_id, sha256) values (%(id)s, %(sha256)s)

-- name: delete_recipe
delete from recipe where id = %(id)s returning id
