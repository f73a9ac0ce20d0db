export interface paths {
    "/api/v1/health": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Health
         * @description Return whether the server is running and reaches its database.
         */
        get: operations["get_health"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Projects
         * @description List all projects, oldest first, or the deleted ones that can be restored.
         */
        get: operations["list_projects"];
        put?: never;
        /**
         * Add Project
         * @description Create a project, empty or with copies of another project's sets.
         */
        post: operations["add_project"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        /**
         * Change Project
         * @description Rename, delete or restore a project.
         */
        patch: operations["change_project"];
        trace?: never;
    };
    "/api/v1/projects/{project}/archive.zip": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Export Project
         * @description Stream the project as a zip archive with its sets and all originals.
         */
        get: operations["export_project"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/disk-use": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Disk Use
         * @description Return the disk use of a project, and how much emptying its Trash frees.
         */
        get: operations["get_disk_use"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/trash": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /**
         * Empty Trash
         * @description Permanently delete the sets in a project's Trash and the files dismissed in Intake.
         */
        delete: operations["empty_trash"];
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/project-archives": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Import Project
         * @description Create a project from a project file, sent as the raw body. Creates a job.
         *
         *     The result of the job contains the project's slug and a report of added, existing and skipped
         *     items.
         */
        post: operations["import_project"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/sets": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Sets
         * @description List the texture sets of a project by name, all or those in `ids`, with all details.
         *
         *     For long lists, use `/api/v1/projects/{project}/tray` and request the visible sets only.
         */
        get: operations["list_sets"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/unreadable-sets": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Unreadable Sets
         * @description List the sets of a project that can't be read, with the reason.
         */
        get: operations["list_unreadable_sets"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/sources": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Import File
         * @description Import one picture file, sent as the raw body, and create a set from it.
         *
         *     Without `kind` the file name determines the map type, or else it is base color. Returns 409 for
         *     map types that can't start a set, such as opacity; import those with Intake.
         */
        post: operations["import_file"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/maps/{kind}/sources": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Import Map
         * @description Import one picture file as a map of an existing set.
         */
        post: operations["import_map"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/tray": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Tray
         * @description List all sets of a project in short form, or those in the Trash.
         */
        get: operations["get_tray"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/changes": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Change Sets
         * @description Change several sets, or preview the change; 409 if set names collide.
         */
        post: operations["change_sets"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/blends": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Blend Sets
         * @description Create a set by blending two sets with one mask for all maps.
         */
        post: operations["blend_sets"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/changes/undo": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Undo Change
         * @description Undo the last change of several sets; sets changed since are kept and reported.
         */
        post: operations["undo_change"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/changes/redo": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Redo Change
         * @description Redo the last undone change of several sets.
         */
        post: operations["redo_change"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/change-previews": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Preview Change
         * @description Render a set, currently or after a change, under the reference light (PNG).
         */
        post: operations["preview_change"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/lit.png": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Set Picture
         * @description Return a thumbnail of a set under the reference light; browsers cache it by its key.
         */
        get: operations["get_set_picture"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/checklists": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Get Checklists
         * @description Return the checklists of sets; fixes are applied by the change `fix`.
         */
        post: operations["get_checklists"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/ignored-findings": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        /**
         * Set Ignored
         * @description Ignore a finding of a set, or stop ignoring it.
         */
        put: operations["set_ignored"];
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/dismissed-warnings": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        /**
         * Set Dismissed
         * @description Dismiss a warning about deliveries of sets, or show it again.
         */
        put: operations["set_dismissed"];
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sources/{sha256}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Source
         * @description Return facts about an imported file.
         */
        get: operations["get_source"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sources/{sha256}/thumbnail.png": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Source Thumbnail
         * @description Return a thumbnail of an imported file.
         */
        get: operations["get_source_thumbnail"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sources/{sha256}/original": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Original
         * @description Return the original file.
         */
        get: operations["get_original"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Set
         * @description Return a texture set.
         */
        get: operations["get_set"];
        /**
         * Change Set
         * @description Change a set; 409 if another client changed it since `version`.
         */
        put: operations["change_set"];
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/undo": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Undo Set
         * @description Undo the last change of a set.
         */
        post: operations["undo_set"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/redo": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Redo Set
         * @description Redo the last undone change of a set.
         */
        post: operations["redo_set"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/maps/{kind}/thumbnail.png": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Map Thumbnail
         * @description Return a thumbnail of a map; the browser caches it by its content key.
         */
        get: operations["get_map_thumbnail"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/previews": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Create Preview
         * @description Compute maps of a set or of a draft; 409 if the window requested a newer preview.
         *
         *     The response contains the length of a JSON text (four bytes, little endian), the text
         *     (`PreviewRead`), and the 8-bit codes of all maps.
         */
        post: operations["create_preview"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/previews/{window}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Preview Progress
         * @description Return the current step and remaining time of a window's preview; null if none is running.
         */
        get: operations["get_preview_progress"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/previews/{window}/stop": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Stop Preview
         * @description Stop the preview of a window after its current step.
         */
        post: operations["stop_preview"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/seam-measures": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Measure Seams
         * @description Measure each method of making a set, or a draft, tileable.
         */
        post: operations["measure_seams"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/interpretations": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * List Interpretations
         * @description List interpretations of a photo, each with its settings and a lit picture.
         */
        post: operations["list_interpretations"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/key-uncertainties": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Measure Key Uncertainty
         * @description Return how certain a color key is, and a color to decide next.
         */
        post: operations["measure_key_uncertainty"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/removed-lighting": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Measure Removed Lighting
         * @description Return the lighting that delighting removes from color, and the dark blotches left.
         */
        post: operations["measure_removed_lighting"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/arrivals": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Intake
         * @description Return the files in Intake; optionally also files that are in sets already.
         */
        get: operations["get_intake"];
        put?: never;
        /**
         * Add Arrival
         * @description Import a picture, a zip archive or a glTF file, sent as the raw body, for sorting.
         *
         *     `name` may contain folders, like the files of a dropped folder.
         */
        post: operations["add_arrival"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/arrivals": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        /**
         * Change Arrivals
         * @description Change the assignment of files.
         */
        patch: operations["change_arrivals"];
        trace?: never;
    };
    "/api/v1/arrivals/acceptances": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Accept Arrivals
         * @description Accept files into their sets, all or none; 409 names the files with open questions.
         */
        post: operations["accept_arrivals"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/arrivals/dismissals": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Dismiss Arrivals
         * @description Remove files from Intake; they can be restored for 30 days.
         */
        post: operations["dismiss_arrivals"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/arrivals/restorations": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Restore Arrivals
         * @description Restore files that were removed in the last 30 days.
         */
        post: operations["restore_arrivals"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/arrivals/cards": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Apply Source Card
         * @description Apply a source card to files, or remove theirs.
         */
        post: operations["apply_source_card"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/capture-groups/{surface_id}/acceptances": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Accept Capture Group
         * @description Create a measured set from pictures of one surface.
         */
        post: operations["accept_capture_group"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/capture-groups/{surface_id}/declines": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Decline Capture Group
         * @description Treat pictures of one surface as separate files.
         */
        post: operations["decline_capture_group"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/arrivals/{arrival_id}/lit-{y}.png": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Arrival Lit
         * @description Return a preview of a normal map lit from above, read with one green direction.
         */
        get: operations["get_arrival_lit"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/arrivals/{arrival_id}/channel-{channel}.png": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Arrival Channel
         * @description Return a preview of one channel of a packed file.
         */
        get: operations["get_arrival_channel"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/source-cards": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Source Cards
         * @description List all source cards by name.
         */
        get: operations["list_source_cards"];
        put?: never;
        /**
         * Create Source Card
         * @description Create a source card from the corrections of files, or extend an existing card.
         */
        post: operations["create_source_card"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/source-cards/{name}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /**
         * Delete Source Card
         * @description Delete a source card; sets imported with it keep its values.
         */
        delete: operations["delete_source_card"];
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/recipes": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Recipes
         * @description List all recipes by name.
         */
        get: operations["list_recipes"];
        put?: never;
        /**
         * Save Recipe
         * @description Save the settings of a set as a recipe; 409 if the name exists and `replace` is false.
         */
        post: operations["save_recipe"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/recipes/imports": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Import Recipe
         * @description Import a recipe file; 409 if the name exists and `replace` is false.
         */
        post: operations["import_recipe"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/recipes/{recipe_id}/file.json": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Export Recipe
         * @description Return the recipe as a JSON file.
         */
        get: operations["export_recipe"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/recipes/{recipe_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /**
         * Delete Recipe
         * @description Delete a recipe; sets that it was applied to keep their settings.
         */
        delete: operations["delete_recipe"];
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/recipes/{recipe_id}/applications": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Apply Recipe
         * @description Apply a recipe to sets, all or none.
         */
        post: operations["apply_recipe"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/settings-copies": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Copy Settings
         * @description Apply the settings of one set to others, all or none.
         */
        post: operations["copy_settings"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/targets": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Targets
         * @description List all targets, built-in ones first.
         */
        get: operations["list_targets"];
        put?: never;
        /**
         * Add Target
         * @description Create a target from a copy or an exported file.
         */
        post: operations["add_target"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/targets/{target_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        /**
         * Change Target
         * @description Change a custom target, or its id; 409 if another client changed it.
         */
        put: operations["change_target"];
        post?: never;
        /**
         * Delete Target
         * @description Delete a custom target; delivered files stay.
         */
        delete: operations["delete_target"];
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/target-previews": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Preview Target
         * @description Preview the files that a target, stored or not, would write for a set.
         */
        post: operations["preview_target"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/target-previews/renderings": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Render Target
         * @description Return the material before and after conversion to the target's files, for two lit views.
         */
        post: operations["render_target"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/vocabulary": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Vocabulary
         * @description Return the declarations that the interface is built from.
         */
        get: operations["get_vocabulary"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/dry-runs": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Preview Files
         * @description List every file that a delivery would write, without computing or writing anything.
         */
        post: operations["preview_files"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/delivery-previews": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Preview Delivery
         * @description Summarize a delivery of any number of parts: counts, and each message once.
         */
        post: operations["preview_delivery"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/board": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Board
         * @description Return the delivery state of each set and target; pairs without one were never delivered.
         */
        get: operations["get_board"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/board/disk-states": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Disk States
         * @description Return the cells of sets whose files were replaced, modified or deleted.
         */
        get: operations["get_disk_states"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/board/stale": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Stale Files
         * @description Return the stale cells of sets with the number of files that would change.
         */
        get: operations["get_stale_files"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/deliveries": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Deliveries
         * @description List deliveries of a project, newest first.
         *
         *     `before`: only deliveries before this id; a list shorter than `limit` is the last one.
         */
        get: operations["list_deliveries"];
        put?: never;
        /**
         * Create Delivery
         * @description Create a delivery, which a worker carries out. Cells that can't be delivered are skipped.
         */
        post: operations["create_delivery"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Delivery
         * @description Return a delivery with the progress of its parts and the state of its files on disk.
         */
        get: operations["get_delivery"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/parts/{n}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Delivery Part
         * @description Return the files of a part, its verification report, and a byte comparison of the files on
         *     disk.
         */
        get: operations["get_delivery_part"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/repetitions": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Repeat Delivery
         * @description Repeat a delivery with the sets and targets of that time.
         */
        post: operations["repeat_delivery"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/comparisons/{other_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Compare Deliveries
         * @description Compare two deliveries; only parts that differ are returned.
         */
        get: operations["compare_deliveries"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/parts/{n}/comparisons/{other_id}/{other_n}/files/{name}/channels/{letter}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Compare Delivery Channel
         * @description Compare a channel of a file in two deliveries, computed from the sets of that time.
         */
        get: operations["compare_delivery_channel"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/parts/{n}/lit.png": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Part Picture
         * @description Render the set of a part, as delivered, under the reference light.
         */
        get: operations["get_part_picture"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/cancel": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Cancel Delivery
         * @description Cancel the waiting and running parts of a delivery; delivered parts stay.
         */
        post: operations["cancel_delivery"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/retry": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Retry Delivery
         * @description Retry the failed and cancelled parts of a delivery.
         */
        post: operations["retry_delivery"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/files.zip": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Delivery Zip
         * @description Stream all files of the delivery as a zip archive.
         *
         *     Parts whose files were replaced or deleted are skipped and listed in `MISSING.txt`.
         */
        get: operations["get_delivery_zip"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/sheet.html": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Contact Sheet
         * @description Return the contact sheet as a single HTML page without scripts or external files.
         */
        get: operations["get_contact_sheet"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/sheet.png": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Contact Sheet Picture
         * @description Return the contact sheet of the first 24 parts as a picture.
         */
        get: operations["get_contact_sheet_picture"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/parts/{n}/files/{name}/picture.png": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get File Picture
         * @description Return a thumbnail of a delivered file, read from the file (without alpha).
         */
        get: operations["get_file_picture"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/parts/{n}/files/{name}/channels/{letter}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get File Channel
         * @description Compare a channel of a delivered file with its source map.
         */
        get: operations["get_file_channel"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/parts/{n}/files/{name}/channels/{letter}/texels": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Channel Texels
         * @description Return texel values of a channel of a delivered file: `held` in the file, `expected`, and the
         *     source `map`.
         */
        get: operations["get_channel_texels"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/parts/{n}/comparisons/{other_id}/{other_n}/files/{name}/channels/{letter}/texels": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Compared Texels
         * @description Return texel values of a channel in two deliveries: `before` and `after`.
         */
        get: operations["get_compared_texels"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/folders": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Folders
         * @description List the subfolders of an allowed folder; of the default folder without `path`.
         */
        get: operations["list_folders"];
        put?: never;
        /**
         * Create Folder
         * @description Create a folder inside an allowed root.
         */
        post: operations["create_folder"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/folders/roots": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Roots
         * @description List the allowed root folders of deliveries.
         */
        get: operations["list_roots"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/folders/copy-destinations": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Copy Destinations
         * @description List the URLs that deliveries may be copied to.
         */
        get: operations["list_copy_destinations"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/destinations": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Destinations
         * @description List the destination of every target in a project; `example` is the name of a set.
         */
        get: operations["list_destinations"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/destinations/{target_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        /**
         * Set Destination
         * @description Set the destination and the overrides of a target in a project.
         */
        put: operations["set_destination"];
        post?: never;
        /**
         * Reset Destination
         * @description Reset the destination of a target in a project to the default.
         */
        delete: operations["reset_destination"];
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/auto-deliver": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Auto Deliver Rules
         * @description List the sets and targets that a project delivers automatically on change.
         */
        get: operations["list_auto_deliver_rules"];
        /**
         * Set Auto Deliver
         * @description Enable or disable auto-deliver for sets and targets; returns all rules.
         */
        put: operations["set_auto_deliver"];
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/watched-folders": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Watched Folders
         * @description List the watched and imported folders of a project.
         */
        get: operations["list_watched_folders"];
        put?: never;
        /**
         * Watch Folder
         * @description Import the pictures of a folder on the server; a known folder is read again.
         */
        post: operations["watch_folder"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/watched-folders/{folder_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /**
         * Unwatch Folder
         * @description Stop watching a folder; imported sets stay.
         */
        delete: operations["unwatch_folder"];
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/webhooks": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Webhooks
         * @description List the webhooks of a project, oldest first.
         */
        get: operations["list_webhooks"];
        put?: never;
        /**
         * Add Webhook
         * @description Add a webhook to a project. The response contains its secret, which isn't shown again.
         */
        post: operations["add_webhook"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/webhooks/{webhook_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /**
         * Remove Webhook
         * @description Remove a webhook with its messages.
         */
        delete: operations["remove_webhook"];
        options?: never;
        head?: never;
        /**
         * Change Webhook
         * @description Pause or resume a webhook.
         */
        patch: operations["change_webhook"];
        trace?: never;
    };
    "/api/v1/webhooks/{webhook_id}/tests": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Test Webhook
         * @description Send a test message now and return the result.
         */
        post: operations["test_webhook"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/webhooks/{webhook_id}/calls": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Webhook Calls
         * @description List up to 50 calls, newest first; `before`: only calls before this id.
         */
        get: operations["list_webhook_calls"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/webhooks/{webhook_id}/messages/{message_id}/sends": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Send Webhook Message
         * @description Send a message again, with the same idempotency key.
         */
        post: operations["send_webhook_message"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/models": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Models
         * @description List the models of a project with the sets that are linked to them.
         */
        get: operations["list_models"];
        put?: never;
        /**
         * Add Model
         * @description Import a model: glTF, OBJ, PLY or STL, or a zip archive with all its files. Creates a job,
         *     whose worker analyzes the model.
         */
        post: operations["add_model"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/models/{model_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /**
         * Delete Model
         * @description Remove a model from its project; 409 while sets are linked to it.
         */
        delete: operations["delete_model"];
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/models/{model_id}/original": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Model Original
         * @description Return the original file.
         */
        get: operations["get_model_original"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/models/{model_id}/mesh": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Mesh
         * @description Return the mesh for display: the length of the header, the header (`MeshRead`), and the
         *     values.
         */
        get: operations["mesh"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/models/{model_id}/uv": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Uv
         * @description Return the UV problems of a material and its UV islands.
         */
        get: operations["get_uv"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/models/{model_id}/uv.png": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Uv Picture
         * @description Return a picture of UV islands with alpha: texel density, or the location of a problem.
         *
         *     tile : numbers of a set's UV tiles; the picture then shows all of them in a square layout
         */
        get: operations["get_uv_picture"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/models/{model_id}/sets": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Create Sets
         * @description Create a set for each of the given materials, with the maps that the model file contains.
         */
        post: operations["create_sets"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/models": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Textured Models
         * @description List the models for which a delivery has glTF or USD textures.
         */
        get: operations["list_textured_models"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/models/{model_id}/{target_id}.glb": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Textured Model
         * @description Return a model with the delivered textures embedded; everything else is unchanged.
         */
        get: operations["get_textured_model"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/deliveries/{delivery_id}/models/{model_id}/{target_id}.usdz": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Textured Stage
         * @description Return a model as USD with the delivered materials and textures embedded.
         */
        get: operations["get_textured_stage"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/ray-misses": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Measure Ray Misses
         * @description Return how many rays from a set's model miss the high-poly model, and where.
         */
        post: operations["measure_ray_misses"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/model": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        /**
         * Link Model
         * @description Link a set to a model, or remove the link; the change can be undone.
         */
        put: operations["link_model"];
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/lights": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Estimate Lights
         * @description Estimate the light direction of each picture from a ball or the pictures, or refine it.
         *
         *     The result of the job contains the pictures with their new lights; the set isn't changed.
         */
        post: operations["estimate_lights"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/gray-cards": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Measure Gray Card
         * @description Measure strength and tint of the light from a gray card; the set isn't changed.
         */
        post: operations["measure_gray_card"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sets/{set_id}/capture-comparisons": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Compare Capture
         * @description Compare a picture of a measured set with the measured surface under the same light.
         */
        post: operations["compare_capture"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/environments": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Environments
         * @description List the environments of a project.
         */
        get: operations["list_environments"];
        put?: never;
        /**
         * Add Environment
         * @description Import an environment: HDR, EXR or any other picture. Creates a job.
         */
        post: operations["add_environment"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/environments/{environment_id}/light.hdr": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Environment Light
         * @description Return the lighting of an environment as Radiance HDR, 1024 x 512.
         */
        get: operations["get_environment_light"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/environments/{environment_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /**
         * Delete Environment
         * @description Remove an environment from its project.
         */
        delete: operations["delete_environment"];
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/projects/{project}/jobs": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * List Jobs
         * @description List the jobs of a project, and jobs without project, that wait, run, failed or ended in the
         *     last ten minutes, and open deliveries. Cheap enough for polling.
         */
        get: operations["list_jobs"];
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/jobs/{job_id}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /**
         * Get Job
         * @description Return a job, with its result when it is done.
         */
        get: operations["get_job"];
        put?: never;
        post?: never;
        /**
         * Dismiss Job
         * @description Remove a job that has ended from the list.
         */
        delete: operations["dismiss_job"];
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/jobs/{job_id}/cancel": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Cancel Job
         * @description Cancel a waiting or running job; nothing of it is stored.
         */
        post: operations["cancel_job"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/jobs/{job_id}/retry": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /**
         * Retry Job
         * @description Retry a failed or cancelled job.
         */
        post: operations["retry_job"];
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
}
export type webhooks = Record<string, never>;
export interface components {
    schemas: {
        /**
         * AcceptedRead
         * @description The sets that files were added to, by name.
         */
        AcceptedRead: {
            /** Sets */
            sets: {
                [key: string]: number;
            };
        };
        /**
         * AddedRead
         * @description Result of one upload.
         */
        AddedRead: {
            /** Batch */
            batch: string;
            /** Ids */
            ids: number[];
            /** Refused */
            refused: components["schemas"]["RefusalRead"][];
        };
        /**
         * AppliedRead
         * @description Result for one set: changed maps, and unchanged ones with the reason.
         */
        AppliedRead: {
            /** Set Id */
            set_id: number;
            /** Set Name */
            set_name: string;
            /** Changed */
            changed: components["schemas"]["MapKind"][];
            /** Kept */
            kept: {
                [key: string]: string;
            };
        };
        /**
         * ArrivalChange
         * @description Changed assignment of rows.
         */
        ArrivalChange: {
            /** Ids */
            ids: number[];
            change: components["schemas"]["AssignmentChange"];
        };
        /**
         * ArrivalChoice
         * @description Selected rows.
         */
        ArrivalChoice: {
            /** Ids */
            ids: number[];
        };
        /**
         * ArrivalRead
         * @description A row in Intake.
         */
        ArrivalRead: {
            /** Id */
            id: number;
            /** Sha256 */
            sha256: string;
            /** Name */
            name: string;
            /** Inside */
            inside: string;
            /** Batch */
            batch: string;
            /**
             * State
             * @enum {string}
             */
            state: "waiting" | "recognized" | "refused" | "accepted";
            /** Error */
            error: string | null;
            facts: components["schemas"]["SourceFactsRead"];
            /** Thumbnail */
            thumbnail: string | null;
            /** Set Name */
            set_name: string;
            /** Map */
            map: components["schemas"]["MapKind"] | ("packed" | "none");
            /**
             * Tile
             * @description tile of the set (UDIM)
             */
            tile: number | null;
            /**
             * Number
             * @description number in the file name that may be a tile number
             */
            number: number | null;
            /** Confidence */
            confidence: number;
            /** Reason */
            reason: string;
            /**
             * Decided By
             * @enum {string}
             */
            decided_by: "detected" | "card" | "user";
            /** Channels */
            channels: components["schemas"]["ChannelRead"][];
            normal: components["schemas"]["NormalRead"] | null;
            /** Mark */
            mark: string;
            /** Hint */
            hint: string;
            /** Card */
            card: string | null;
            /**
             * Relief
             * @description mean slope of the set's relief in degrees; null: default
             */
            relief: number | null;
            /** Set Id */
            set_id: number | null;
            /** Remarks */
            remarks: string[];
            /** Problem */
            problem: string | null;
        };
        /**
         * Assay
         * @description Verification of a delivered folder. `unknown` are files that aren't in the manifest.
         */
        Assay: {
            /** Set */
            set: string;
            /** Target */
            target: string;
            /** Ok */
            ok: boolean;
            /** Files */
            files: components["schemas"]["FileCheck"][];
            /**
             * Unknown
             * @default []
             */
            unknown: string[];
        };
        /**
         * AssignmentChange
         * @description Corrections by the user; None keeps the detected value.
         *
         *     channels : only corrected ones; None as value: unused
         *     tile : 0: not a tile
         */
        AssignmentChange: {
            /** Set Name */
            set_name?: string | null;
            /** Map */
            map?: components["schemas"]["MapKind"] | ("packed" | "none") | null;
            /** Channels */
            channels?: {
                [key: string]: components["schemas"]["MapKind"] | null;
            } | null;
            normal_y?: components["schemas"]["NormalY"] | null;
            /** Relief */
            relief?: number | null;
            /** Tile */
            tile?: number | null;
        };
        /**
         * AutoDeliverCell
         * @description See `AutoDeliverRead`.
         */
        AutoDeliverCell: {
            /** Set Id */
            set_id?: number | null;
            /** Target Id */
            target_id?: string | null;
        };
        /**
         * AutoDeliverRead
         * @description An auto-deliver rule: one cell; every set for a target, if there is no set; or every cell
         *     that was delivered before, if there is neither.
         */
        AutoDeliverRead: {
            /** Set Id */
            set_id: number | null;
            /** Target Id */
            target_id: string | null;
        };
        /**
         * AutoDeliverWrite
         * @description Rules to enable or disable.
         */
        AutoDeliverWrite: {
            /** Cells */
            cells: components["schemas"]["AutoDeliverCell"][];
            /** Kept */
            kept: boolean;
        };
        /**
         * BallSpec
         * @description A ball in the pictures: fractions of their width, from the upper left corner.
         */
        BallSpec: {
            /** X */
            x: number;
            /** Y */
            y: number;
            /** Radius */
            radius: number;
            /**
             * Kind
             * @enum {string}
             */
            kind: "white" | "shiny";
        };
        /**
         * BlendCreate
         * @description Two sets to blend; the lower one determines width and size.
         */
        BlendCreate: {
            /** Below */
            below: number;
            /** Above */
            above: number;
            /**
             * Name
             * @default
             */
            name: string;
        };
        /**
         * BlendedRead
         * @description The created set.
         */
        BlendedRead: {
            /** Id */
            id: number;
            /** Name */
            name: string;
        };
        /**
         * BlotchesRead
         * @description Dark blotches that would show as repetition: stops darker, share of the picture, and the
         *     lighting scale that removes them.
         */
        BlotchesRead: {
            /** Stops */
            stops: number;
            /** Share */
            share: number;
            /** Scale */
            scale: number;
        };
        /**
         * BoardCellRead
         * @description One set and one target with a delivery.
         */
        BoardCellRead: {
            /** Set Id */
            set_id: number;
            /** Target Id */
            target_id: string;
            /**
             * State
             * @enum {string}
             */
            state: "delivered" | "stale" | "waiting" | "running" | "failed";
            /** Delivery Id */
            delivery_id: number | null;
            /** Progress */
            progress: number;
            /** Error */
            error: string | null;
        };
        /**
         * CaptureComparisonQuery
         * @description Compare a picture with the measured surface.
         */
        CaptureComparisonQuery: {
            /** Source */
            source: string;
            draft?: components["schemas"]["Draft"] | null;
        };
        /**
         * CaptureComparisonRead
         * @description A picture and the measured surface under the same light, as data URLs.
         *
         *     difference : white is 10 ΔE2000; delta_e : mean; shaded : share of the picture that is
         *     overexposed or in cast shadow and therefore not compared
         */
        CaptureComparisonRead: {
            /** Photo */
            photo: string;
            /** Ours */
            ours: string;
            /** Difference */
            difference: string;
            /** Delta E */
            delta_e: number;
            /** Shaded */
            shaded: number;
        };
        /**
         * CaptureSpec
         * @description One picture of a surface, under one light.
         */
        CaptureSpec: {
            /** Source */
            source: string;
            /** @default srgb */
            encoding: components["schemas"]["Encoding"];
            lamp: components["schemas"]["LampSpec"];
            /**
             * Light Origin
             * @description origin of the light direction
             * @default manual
             * @enum {string}
             */
            light_origin: "ball" | "refined" | "estimated" | "manual";
            /**
             * @default {
             *       "right": 0,
             *       "down": 0,
             *       "rotation": 0
             *     }
             */
            placement: components["schemas"]["PlacementSpec"];
            /**
             * Exposure
             * @description in stops relative to the others
             * @default 0
             */
            exposure: number;
            /**
             * Used
             * @description false: excluded
             * @default true
             */
            used: boolean;
        };
        /**
         * CapturesSpec
         * @description Light captures of one surface, with the parameters of the measurement.
         */
        CapturesSpec: {
            /** Captures */
            captures: components["schemas"]["CaptureSpec"][];
            ball?: components["schemas"]["BallSpec"] | null;
            /**
             * White
             * @description linear value of a white surface directly below a light of strength 1
             * @default 1
             */
            white: number;
            /**
             * @default {
             *       "red": 1,
             *       "green": 1,
             *       "blue": 1
             *     }
             */
            tint: components["schemas"]["TintSpec"];
            /**
             * F0
             * @description reflectance at normal incidence, from highlights; null: 0.04 assumed
             */
            f0?: number | null;
            /** @description source of white level and tint, if any */
            gray_card?: components["schemas"]["GrayCardSpec"] | null;
            /**
             * Flat Field
             * @description flat-field picture of plain paper, to correct vignetting
             */
            flat_field?: string | null;
            /**
             * Remarks
             * @description results of the image analysis
             * @default []
             */
            remarks: string[];
            /**
             * Light Remarks
             * @description results of the last light estimation
             * @default []
             */
            light_remarks: string[];
        };
        /**
         * CardChoice
         * @description Apply a source card to rows; null removes it.
         */
        CardChoice: {
            /** Ids */
            ids: number[];
            /** Card */
            card: string | null;
        };
        /**
         * CardCreate
         * @description Create a source card from the corrections of rows, or extend one.
         */
        CardCreate: {
            /** Ids */
            ids: number[];
            /** Name */
            name: string;
            /**
             * Licence
             * @default
             */
            licence: string;
            /**
             * Where
             * @default
             */
            where: string;
        };
        /**
         * CardOffer
         * @description A source card that fits the files of a drop; it isn't applied until the user confirms it.
         */
        CardOffer: {
            card: components["schemas"]["SourceCard"];
            /** Ids */
            ids: number[];
        };
        /**
         * CauseRead
         * @description A message about several parts; blocked parts can't be delivered.
         */
        CauseRead: {
            /**
             * Weight
             * @enum {string}
             */
            weight: "blocked" | "error" | "warning" | "info";
            /** Text */
            text: string;
            /**
             * Cause
             * @description identifies a warning that can be dismissed; else empty
             */
            cause: string;
            /** Dismissed */
            dismissed: boolean;
            /** Cells */
            cells: number;
            /**
             * Set Ids
             * @description up to 1000 sets
             */
            set_ids: number[];
        };
        /**
         * CellChoice
         * @description One set and one target.
         */
        CellChoice: {
            /** Set Id */
            set_id: number;
            /** Target Id */
            target_id: string;
        };
        /**
         * ChangeNotes
         * @description Replaces the note of sets.
         */
        ChangeNotes: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "notes";
            /** Text */
            text: string;
        };
        /**
         * ChangePreviewRequest
         * @description A change to preview; null renders the current set.
         */
        ChangePreviewRequest: {
            /** Change */
            change?: (components["schemas"]["Rename"] | components["schemas"]["ReplaceInNames"] | components["schemas"]["ChangeTags"] | components["schemas"]["ChangeNotes"] | components["schemas"]["Delete"] | components["schemas"]["Undelete"] | components["schemas"]["Duplicate"] | components["schemas"]["Move"] | components["schemas"]["Merge"] | components["schemas"]["ChangeWidth"] | components["schemas"]["ChangeRelief"] | components["schemas"]["Interpret"] | components["schemas"]["SetConstant"] | components["schemas"]["FlipGreen"] | components["schemas"]["UseCard"] | components["schemas"]["Restore"] | components["schemas"]["FixFindings"] | components["schemas"]["UseRecipe"]) | null;
        };
        /**
         * ChangeRelief
         * @description Sets the mean slope of the relief in degrees; a manual depth is reset.
         */
        ChangeRelief: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "relief";
            /** Degrees */
            degrees: number;
        };
        /**
         * ChangeRequest
         * @description A change of several sets; `dry` only reports what would be done.
         */
        ChangeRequest: {
            /** Set Ids */
            set_ids: number[];
            /** Change */
            change: components["schemas"]["Rename"] | components["schemas"]["ReplaceInNames"] | components["schemas"]["ChangeTags"] | components["schemas"]["ChangeNotes"] | components["schemas"]["Delete"] | components["schemas"]["Undelete"] | components["schemas"]["Duplicate"] | components["schemas"]["Move"] | components["schemas"]["Merge"] | components["schemas"]["ChangeWidth"] | components["schemas"]["ChangeRelief"] | components["schemas"]["Interpret"] | components["schemas"]["SetConstant"] | components["schemas"]["FlipGreen"] | components["schemas"]["UseCard"] | components["schemas"]["Restore"] | components["schemas"]["FixFindings"] | components["schemas"]["UseRecipe"];
            /**
             * Dry
             * @default false
             */
            dry: boolean;
        };
        /**
         * ChangeTags
         * @description Adds and removes tags.
         */
        ChangeTags: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "tags";
            /** Add */
            add?: string[];
            /** Remove */
            remove?: string[];
        };
        /**
         * ChangeWidth
         * @description Sets the real width of the surface in meters.
         */
        ChangeWidth: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "width";
            /** Metres */
            metres: number;
        };
        /**
         * ChangedRead
         * @description Result of a change, or its preview; `kept` lists the unchanged sets by reason.
         */
        ChangedRead: {
            /** Title */
            title: string;
            /** Changed */
            changed: number[];
            /** Made */
            made: number[];
            /** Kept */
            kept: components["schemas"]["MessageRead"][];
            /** Messages */
            messages: components["schemas"]["MessageRead"][];
        };
        /**
         * ChannelCheck
         * @description One channel compared with its expected content; for lossy files, with that before writing.
         *
         *     largest, mean : differences in codes; None if only a checksum is available
         */
        ChannelCheck: {
            /** Channel */
            channel: string;
            /** Holds */
            holds: string;
            /** Ok */
            ok: boolean;
            /** Largest */
            largest: number | null;
            /** Mean */
            mean: number | null;
        };
        /**
         * ChannelEntry
         * @description One channel of a file: its origin, and a digest of its codes (row-major, LE).
         */
        ChannelEntry: {
            /** Channel */
            channel: string;
            /** Map */
            map?: string | null;
            /** Component */
            component?: string | null;
            times?: components["schemas"]["Times"] | null;
            /** Constant */
            constant?: number | null;
            /**
             * Changes
             * @default []
             */
            changes: (components["schemas"]["Invert"] | components["schemas"]["Range"] | components["schemas"]["Power"] | components["schemas"]["Threshold"] | components["schemas"]["Clamp"])[];
            /**
             * Segments
             * @default []
             */
            segments: components["schemas"]["Segment"][];
            /** Content Key */
            content_key?: string | null;
            /**
             * Codes Digest
             * @description algorithm:hex; the algorithm is xxh3-128, or sha256 in version 1
             */
            codes_digest: string;
            /** Minimum */
            minimum: number;
            /** Maximum */
            maximum: number;
            /** Mean */
            mean: number;
        };
        /**
         * ChannelRead
         * @description One channel of a packed file: its assigned map, and the detected one with the reason.
         */
        ChannelRead: {
            /** Name */
            name: string;
            kind: components["schemas"]["MapKind"] | null;
            /** Confidence */
            confidence: number;
            /** Reason */
            reason: string;
        };
        /**
         * ChannelViewRead
         * @description A channel of a delivered file: pictures (data URLs, PNG), and the difference from its source.
         *
         *     map : source map before changes; null for constants and shared channels
         *     difference : amplified by this factor
         *     largest, mean : in codes
         */
        ChannelViewRead: {
            /** Words */
            words: string;
            /** Held */
            held: string;
            /** Expected */
            expected: string;
            /** Map */
            map: string | null;
            /** Difference */
            difference: string;
            /** Amplified */
            amplified: number;
            /** Largest */
            largest: number;
            /** Mean */
            mean: number;
        };
        /**
         * ChecklistRead
         * @description The checklist of a set.
         *
         *     `current` is false until the current version of the set was checked; `problem` is the reason if
         *     it couldn't be checked.
         */
        ChecklistRead: {
            /** Set Id */
            set_id: number;
            /** Current */
            current: boolean;
            /** Problem */
            problem: string | null;
            /** Findings */
            findings: components["schemas"]["FindingRead"][];
        };
        /**
         * ChecklistsQuery
         * @description The sets to check.
         */
        ChecklistsQuery: {
            /** Set Ids */
            set_ids: number[];
        };
        /**
         * Clamp
         * @description Limits values to a range.
         */
        Clamp: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "clamp";
            /**
             * Low
             * @default 0
             */
            low: number;
            /**
             * High
             * @default 1
             */
            high: number;
        };
        /**
         * ComparedChannelRead
         * @description A channel in two deliveries: data URLs; differences are shares of the stored range.
         */
        ComparedChannelRead: {
            /** Before */
            before: string;
            /** After */
            after: string;
            /** Difference */
            difference: string;
            /** Amplified */
            amplified: number;
            /** Largest */
            largest: number;
            /** Mean */
            mean: number;
        };
        /**
         * ComparedFileRead
         * @description A file in two deliveries; for a changed file, the channels whose codes differ.
         */
        ComparedFileRead: {
            /** Name */
            name: string;
            /**
             * Kind
             * @enum {string}
             */
            kind: "same" | "changed" | "added" | "gone";
            /** Channels */
            channels: string[];
            /** Words */
            words: string;
        };
        /**
         * ComparedPartRead
         * @description One set and target in an earlier and a later delivery; `maps` lists the maps that differ.
         */
        ComparedPartRead: {
            /** Set Name */
            set_name: string;
            /** Target Id */
            target_id: string;
            /** N */
            n: number | null;
            /** Other N */
            other_n: number | null;
            /** Maps */
            maps: string[];
            /** Files */
            files: components["schemas"]["ComparedFileRead"][];
        };
        /**
         * Constant
         * @description A constant map: one number, or three for a color (linear light) or a vector.
         */
        Constant: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            how: "constant";
            /** Value */
            value: number[];
        };
        /**
         * CountsRead
         * @description Number of parts by state.
         */
        CountsRead: {
            /** Parts */
            parts: number;
            /** Queued */
            queued: number;
            /** Running */
            running: number;
            /** Done */
            done: number;
            /** Failed */
            failed: number;
            /** Cancelled */
            cancelled: number;
        };
        /**
         * CreateSets
         * @description The materials to create sets for.
         */
        CreateSets: {
            /** Materials */
            materials: string[];
        };
        /**
         * CreatedDeliveryRead
         * @description A created delivery, and its skipped cells.
         */
        CreatedDeliveryRead: {
            /** Id */
            id: number;
            /**
             * State
             * @enum {string}
             */
            state: "queued" | "running" | "done" | "failed" | "cancelled";
            /** Progress */
            progress: number;
            /** Step */
            step: string;
            /** Error */
            error: string | null;
            counts: components["schemas"]["CountsRead"];
            /**
             * Created At
             * Format: date-time
             */
            created_at: string;
            /** Started At */
            started_at: string | null;
            /** Finished At */
            finished_at: string | null;
            /** Parts */
            parts: components["schemas"]["DeliveryPartRead"][];
            /** Skipped */
            skipped: components["schemas"]["SkippedRead"][];
        };
        /**
         * CreatedSetsRead
         * @description The created sets by material, and what couldn't be imported.
         */
        CreatedSetsRead: {
            /** Sets */
            sets: {
                [key: string]: number;
            };
            /** Remarks */
            remarks: string[];
        };
        /**
         * Delete
         * @description Deletes sets; they can be restored for 30 days.
         */
        Delete: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "delete";
        };
        /**
         * DeliveredPartRead
         * @description Files and verification report of a part, and the state of its files on disk.
         */
        DeliveredPartRead: {
            manifest: components["schemas"]["Manifest"] | null;
            assay: components["schemas"]["Assay"] | null;
            /**
             * Disk State
             * @enum {string}
             */
            disk_state: "none" | "intact" | "replaced" | "modified" | "missing";
            /** Disk State Text */
            disk_state_text: string;
            /** Replaced By */
            replaced_by: number | null;
        };
        /**
         * DeliveryCreate
         * @description Sets and targets of a delivery: each of `set_ids` to each of `target_ids`, and `cells`.
         */
        DeliveryCreate: {
            /** Set Ids */
            set_ids?: number[];
            /** Target Ids */
            target_ids?: string[];
            /** Cells */
            cells?: components["schemas"]["CellChoice"][];
            /** Longer Side */
            longer_side?: number | null;
            /**
             * Delete Obsolete
             * @description delete files of earlier deliveries that this one no longer contains
             * @default false
             */
            delete_obsolete: boolean;
            /**
             * Rewrite
             * @description rewrite unchanged files
             * @default false
             */
            rewrite: boolean;
        };
        /**
         * DeliveryPartRead
         * @description One set and target of a delivery, in short form.
         *
         *     written, kept : number of files written, and of unchanged files
         *     disk_state : state of the files on disk, with a description if they changed; null while unknown
         *     replaced_by : the delivery that overwrote the files
         *     bytes_kept : the delivered files can still be downloaded
         */
        DeliveryPartRead: {
            /** N */
            n: number;
            /** Set Id */
            set_id: number | null;
            /** Set Name */
            set_name: string;
            /** Target Id */
            target_id: string;
            /** Folder */
            folder: string;
            /**
             * State
             * @enum {string}
             */
            state: "queued" | "running" | "done" | "failed" | "cancelled";
            /** Progress */
            progress: number;
            /** Step */
            step: string;
            /** Error */
            error: string | null;
            /** Written */
            written: number;
            /** Kept */
            kept: number;
            /** Disk State */
            disk_state: ("none" | "intact" | "replaced" | "modified" | "missing") | null;
            /** Disk State Text */
            disk_state_text: string;
            /** Replaced By */
            replaced_by: number | null;
            /** Bytes Kept */
            bytes_kept: boolean;
        };
        /**
         * DeliveryPreviewRead
         * @description Summary of a delivery of many parts: counts, each message once, and the first parts.
         */
        DeliveryPreviewRead: {
            /** Shown */
            shown: components["schemas"]["DryRunPartRead"][];
            /** Parts */
            parts: number;
            /** Files */
            files: number;
            /** Replaced */
            replaced: number;
            /**
             * Unchanged
             * @description files whose bytes wouldn't change
             */
            unchanged: number;
            /**
             * Copies
             * @description parts that are also copied to a second destination
             */
            copies: number;
            /**
             * Left
             * @description files there from earlier deliveries that this one no longer contains
             */
            left: number;
            /** Blocked */
            blocked: number;
            /** Causes */
            causes: components["schemas"]["CauseRead"][];
        };
        /**
         * DeliveryRead
         * @description A delivery with its progress.
         */
        DeliveryRead: {
            /** Id */
            id: number;
            /**
             * State
             * @enum {string}
             */
            state: "queued" | "running" | "done" | "failed" | "cancelled";
            /** Progress */
            progress: number;
            /** Step */
            step: string;
            /** Error */
            error: string | null;
            counts: components["schemas"]["CountsRead"];
            /**
             * Created At
             * Format: date-time
             */
            created_at: string;
            /** Started At */
            started_at: string | null;
            /** Finished At */
            finished_at: string | null;
            /** Parts */
            parts: components["schemas"]["DeliveryPartRead"][];
        };
        /**
         * Derived
         * @description A map computed by an operation from other maps of the set.
         *
         *     `slots` defines the operation's slots by name: a picture, a map of the set, or a map of a
         *     blended set.
         */
        Derived: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            how: "derived";
            /** Operation */
            operation: string;
            /** Parameters */
            parameters?: {
                [key: string]: number | boolean | string;
            };
            /** Slots */
            slots?: {
                [key: string]: components["schemas"]["Imported"] | components["schemas"]["FromMap"] | components["schemas"]["FromBlendedSet"];
            };
        };
        /**
         * DestinationRead
         * @description Destination of a target in a project.
         *
         *     example : full path of a set's files; shares : several sets or targets share a folder
         *     copy_example : full URL of their copy; null without copy destination
         */
        DestinationRead: {
            /** Target Id */
            target_id: string;
            /** Title */
            title: string;
            /** Folder */
            folder: string;
            /** Pattern */
            pattern: string;
            options: components["schemas"]["TargetOptions"];
            /** Is Default */
            is_default: boolean;
            /** Example */
            example: string;
            /** Copy Example */
            copy_example: string | null;
            /** Shares */
            shares: boolean;
            /** Files */
            files: components["schemas"]["TargetFileRead"][];
        };
        /**
         * DestinationWrite
         * @description Destination of a target in a project.
         *
         *     pattern : subfolders with {target}, {set} and {project}; "" for no subfolder
         *     dry : only check, without saving
         */
        DestinationWrite: {
            /** Folder */
            folder: string;
            /** Pattern */
            pattern: string;
            /**
             * @default {
             *       "off": []
             *     }
             */
            options: components["schemas"]["TargetOptions"];
            /**
             * Dry
             * @default false
             */
            dry: boolean;
        };
        /**
         * DiskStateRead
         * @description A cell whose files were changed since the delivery.
         */
        DiskStateRead: {
            /** Set Id */
            set_id: number;
            /** Target Id */
            target_id: string;
            /**
             * Disk State
             * @enum {string}
             */
            disk_state: "none" | "intact" | "replaced" | "modified" | "missing";
            /** Text */
            text: string;
        };
        /**
         * DiskUseRead
         * @description Disk use of a project, in bytes.
         */
        DiskUseRead: {
            /**
             * Originals
             * @description imported files used by the project
             */
            originals: number;
            /** Original Bytes */
            original_bytes: number;
            /**
             * Shared Bytes
             * @description of these, shared with other projects or recipes
             */
            shared_bytes: number;
            /** Trash Sets */
            trash_sets: number;
            /**
             * Trash Imports
             * @description files that were dismissed in Intake
             */
            trash_imports: number;
            /**
             * Trash Files
             * @description originals used only by sets in the Trash
             */
            trash_files: number;
            /** Trash Bytes */
            trash_bytes: number;
            /**
             * Delivered Files
             * @description files of the latest delivery into each folder
             */
            delivered_files: number;
            /** Delivered Bytes */
            delivered_bytes: number;
        };
        /**
         * DismissWarning
         * @description A warning of a delivery by its cause, and the sets for which it is dismissed.
         */
        DismissWarning: {
            /** Set Ids */
            set_ids: number[];
            /** Cause */
            cause: string;
            /** Dismissed */
            dismissed: boolean;
        };
        /**
         * DocumentEntry
         * @description A material document and the textures that it embeds or refers to.
         */
        DocumentEntry: {
            /** Name */
            name: string;
            /** Sha256 */
            sha256: string;
            /** Bytes */
            bytes: number;
            /** Format */
            format: string;
            /** Textures */
            textures: string[];
            /**
             * Written Key
             * @description identical for documents with identical content
             */
            written_key?: string | null;
        };
        /**
         * DocumentSpec
         * @description A material document; its name without extension.
         */
        DocumentSpec: {
            /**
             * Format
             * @enum {string}
             */
            format: "glb" | "gltf" | "materialx" | "usda" | "usdz";
            /** Name */
            name: string;
            /**
             * Model
             * @description surface model of a MaterialX document
             * @default open_pbr
             * @enum {string}
             */
            model: "open_pbr" | "standard_surface";
        };
        /**
         * Draft
         * @description A definition that is only previewed.
         */
        Draft: {
            surface: components["schemas"]["SurfaceSpec"];
            /**
             * @default {
             *       "frame": {
             *         "angle": 0,
             *         "crop": [
             *           0,
             *           0,
             *           1,
             *           1
             *         ],
             *         "mirror": false,
             *         "quarter_turns": 0
             *       },
             *       "marks": []
             *     }
             */
            prepare: components["schemas"]["Preparation"];
            /** Maps */
            maps: {
                [key: string]: components["schemas"]["Imported"] | components["schemas"]["Derived"] | components["schemas"]["Constant"];
            };
            model?: components["schemas"]["ModelLink"] | null;
            /** @description null keeps the current value */
            captures?: components["schemas"]["CapturesSpec"] | null;
        };
        /**
         * DryChannelRead
         * @description Content of a channel: a component of a map, a constant, or segments; `holds` describes it.
         */
        DryChannelRead: {
            /** Channel */
            channel: string;
            /** Map */
            map: string | null;
            /** Component */
            component: string;
            /** Constant */
            constant: number | null;
            /** Changes */
            changes: string[];
            /** Holds */
            holds: string;
        };
        /**
         * DryFileRead
         * @description A file that will be written.
         */
        DryFileRead: {
            /** Name */
            name: string;
            /**
             * State
             * @enum {string}
             */
            state: "new" | "replaces" | "unchanged" | "foreign";
            /** Format */
            format: string;
            /** Width */
            width: number;
            /** Height */
            height: number;
            /** Bits */
            bits: number;
            /** Encoding */
            encoding: string;
            /** Tiles */
            tiles: boolean;
            /** Mips */
            mips: boolean;
            /** Channels */
            channels: components["schemas"]["DryChannelRead"][];
        };
        /**
         * DryRunPartRead
         * @description One set and one target.
         */
        DryRunPartRead: {
            /** Set Id */
            set_id: number;
            /** Set Name */
            set_name: string;
            /** Target Id */
            target_id: string;
            /** Folder */
            folder: string;
            /** Normal Y */
            normal_y: string | null;
            /** Files */
            files: components["schemas"]["DryFileRead"][];
            /** Other Files */
            other_files: {
                [key: string]: string;
            };
            /** Remarks */
            remarks: components["schemas"]["RemarkRead"][];
            /** Error */
            error: string | null;
        };
        /**
         * Duplicate
         * @description Copies every set, under the next free name.
         */
        Duplicate: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "duplicate";
        };
        /**
         * Encoding
         * @description Relation between the codes of a file and light.
         * @enum {string}
         */
        Encoding: "srgb" | "linear";
        /**
         * EnvironmentRead
         * @description An environment of a project.
         */
        EnvironmentRead: {
            /** Id */
            id: number;
            /** Name */
            name: string;
            /**
             * Kind
             * @enum {string}
             */
            kind: "panorama" | "mirror_ball";
            /**
             * Lamp
             * @description direction of the brightest point: x, y (up), z
             */
            lamp: number[];
            /**
             * Strength
             * @description its luminance as a multiple of the mean
             */
            strength: number;
            /**
             * Mean
             * @description its mean luminance
             */
            mean: number;
            /**
             * Light
             * @description URL of the environment as Radiance HDR, 1024 x 512
             */
            light: string;
            /** Thumbnail */
            thumbnail: string;
        };
        /**
         * EvenLight
         * @description Removes large-scale lighting from color pictures.
         */
        EvenLight: {
            /**
             * Strength
             * @default 0.9
             */
            strength: number;
            /**
             * Scale
             * @description as a share of the picture's width
             * @default 0.125
             */
            scale: number;
        };
        /**
         * FileCheck
         * @description One file: its channels, and descriptions of its problems.
         *
         *     reader : library that read it back; own_reader : read by the code that wrote it
         */
        FileCheck: {
            /** Name */
            name: string;
            /** Ok */
            ok: boolean;
            /**
             * Reader
             * @default
             */
            reader: string;
            /**
             * Own Reader
             * @default false
             */
            own_reader: boolean;
            /**
             * Channels
             * @default []
             */
            channels: components["schemas"]["ChannelCheck"][];
            /**
             * Problems
             * @default []
             */
            problems: string[];
        };
        /**
         * FileEntry
         * @description One texture file.
         */
        FileEntry: {
            /** Name */
            name: string;
            /** Sha256 */
            sha256: string;
            /** Bytes */
            bytes: number;
            /** Format */
            format: string;
            /** Width */
            width: number;
            /** Height */
            height: number;
            /** Bits */
            bits: number;
            encoding: components["schemas"]["Encoding"];
            /**
             * Compression
             * @description where its format has a choice
             */
            compression?: string | null;
            /**
             * Quality
             * @description where one was chosen
             */
            quality?: number | null;
            /**
             * Tiles
             * @default false
             */
            tiles: boolean;
            /**
             * Tile
             * @description tile of the set (UDIM)
             */
            tile?: number | null;
            /**
             * Mips Digests
             * @description hashes of the codes of each mip level, all channels, largest level first
             * @default []
             */
            mips_digests: string[];
            /**
             * Lossy
             * @description the codes are those decoded from the file
             * @default false
             */
            lossy: boolean;
            /** Channels */
            channels: components["schemas"]["ChannelEntry"][];
            /**
             * Written Key
             * @description identical for files with identical content
             */
            written_key?: string | null;
        };
        /**
         * FileSpec
         * @description One output file: name pattern, suffix, format, bit depth, encoding, channel slots.
         *
         *     bits : 16 of EXR is half precision, 32 is single precision
         *     compression, quality : of the format; None: default
         *     mips : with all mip levels
         *     tiles : TIFF and EXR for renderers that stream textures
         *     dither : blue noise of one code where smooth values become 8 bits
         *     size : of this file, relative to the target's size
         */
        FileSpec: {
            /** Name */
            name: string;
            /**
             * Suffix
             * @default
             */
            suffix: string;
            /**
             * Format
             * @enum {string}
             */
            format: "png" | "tga" | "tiff" | "exr" | "hdr" | "webp" | "jpeg" | "dds" | "ktx2";
            /**
             * Bits
             * @default 8
             * @enum {integer}
             */
            bits: 8 | 16 | 32;
            encoding: components["schemas"]["Encoding"];
            /** Compression */
            compression?: string | null;
            /** Quality */
            quality?: number | null;
            /**
             * Mips
             * @default false
             */
            mips: boolean;
            /**
             * Tiles
             * @default false
             */
            tiles: boolean;
            /**
             * Dither
             * @default false
             */
            dither: boolean;
            /**
             * @default {
             *       "mode": "source"
             *     }
             */
            size: components["schemas"]["SizeRule"];
            /** Channels */
            channels: {
                [key: string]: components["schemas"]["Slot"];
            };
        };
        /**
         * FindingRead
         * @description A detected problem, and its fix; `fix` is null if there is none.
         */
        FindingRead: {
            /** Key */
            key: string;
            /**
             * Rule
             * @enum {string}
             */
            rule: "transfer_curve" | "channel_order" | "swapped_channels" | "green_direction" | "mixed_green" | "inverted_relief" | "vector_length" | "looks_like_glossiness" | "looks_like_roughness" | "implausible_color" | "dark_metal" | "clipped_roughness" | "not_tileable" | "sizes_differ" | "uv_missing" | "uv_overlaps" | "uv_outside" | "uv_mirrored" | "uv_gaps" | "uv_uneven_density" | "uv_degenerate" | "uv_hard_edges";
            kind: components["schemas"]["MapKind"];
            /** Title */
            title: string;
            /**
             * Weight
             * @enum {string}
             */
            weight: "info" | "warning" | "error";
            /** Text */
            text: string;
            /** Evidence */
            evidence: string;
            /**
             * Fix
             * @description change made by the fix
             */
            fix: string | null;
            /** Ignored */
            ignored: boolean;
        };
        /**
         * FixFindings
         * @description Applies the fix of a checklist rule to sets.
         */
        FixFindings: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "fix";
            /**
             * Rule
             * @enum {string}
             */
            rule: "transfer_curve" | "channel_order" | "swapped_channels" | "green_direction" | "mixed_green" | "inverted_relief" | "vector_length" | "looks_like_glossiness" | "looks_like_roughness" | "implausible_color" | "dark_metal" | "clipped_roughness" | "not_tileable" | "sizes_differ" | "uv_missing" | "uv_overlaps" | "uv_outside" | "uv_mirrored" | "uv_gaps" | "uv_uneven_density" | "uv_degenerate" | "uv_hard_edges";
        };
        /**
         * FlipGreen
         * @description Switches imported normals between Y+ and Y−.
         *
         *     card : only in sets with this source card
         */
        FlipGreen: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "flip_green";
            /** Card */
            card?: string | null;
        };
        /**
         * FolderCreate
         * @description A new folder inside an allowed one.
         */
        FolderCreate: {
            /** Folder */
            folder: string;
            /** Name */
            name: string;
        };
        /**
         * FolderRead
         * @description A folder on the server.
         */
        FolderRead: {
            /** Folder */
            folder: string;
            /** Root */
            root: string;
            /**
             * Parent
             * @description null if the folder is inside an allowed root
             */
            parent: string | null;
            /** Folders */
            folders: string[];
            /** Is Writable */
            is_writable: boolean;
            /**
             * Is There
             * @description false: the next delivery creates it
             */
            is_there: boolean;
        };
        /**
         * FormatRead
         * @description Capabilities of a file format; see `codecs.codec.Format`.
         */
        FormatRead: {
            /** Name */
            name: string;
            /** Title */
            title: string;
            /** Ending */
            ending: string;
            /** Bits */
            bits: number[];
            /** Channels */
            channels: number[];
            /** Compressions */
            compressions: string[];
            /** Floating Bits */
            floating_bits: number[];
            /** Mips */
            mips: boolean;
            /** Tiles */
            tiles: boolean;
            /** Quality */
            quality: boolean;
            /**
             * Blocks
             * @description block-compressed texels for GPUs
             */
            blocks: boolean;
            /** Lossy */
            lossy: string[] | boolean;
        };
        /**
         * FrameSpec
         * @description The used part of the picture; see `operations.prepare.frame.Frame`.
         */
        FrameSpec: {
            /** Corners */
            corners?: number[][] | null;
            /**
             * Aspect
             * @description width divided by height
             */
            aspect?: number | null;
            /**
             * Quarter Turns
             * @description clockwise
             * @default 0
             */
            quarter_turns: number;
            /**
             * Mirror
             * @default false
             */
            mirror: boolean;
            /**
             * Angle
             * @description degrees clockwise
             * @default 0
             */
            angle: number;
            /**
             * Crop
             * @description left, top, right, bottom as shares of the straightened picture
             * @default [
             *       0,
             *       0,
             *       1,
             *       1
             *     ]
             */
            crop: number[];
        };
        /**
         * FromBlendedSet
         * @description Content of an operation's input: a map of one of the blended sets.
         */
        FromBlendedSet: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            how: "part";
            /**
             * Part
             * @enum {string}
             */
            part: "below" | "above";
            kind: components["schemas"]["MapKind"];
        };
        /**
         * FromMap
         * @description Content of an operation's input: a map of the same set.
         */
        FromMap: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            how: "map";
            kind: components["schemas"]["MapKind"];
        };
        /**
         * GrayCardQuery
         * @description Measure strength and tint of the light from a gray card in the pictures.
         */
        GrayCardQuery: {
            card: components["schemas"]["GrayCardSpec"];
            draft?: components["schemas"]["Draft"] | null;
        };
        /**
         * GrayCardSpec
         * @description A gray card or plain paper in the pictures: fractions of their width, from the top left.
         */
        GrayCardSpec: {
            /** X */
            x: number;
            /** Y */
            y: number;
            /**
             * Reflectance
             * @description share of reflected light
             * @default 0.18
             */
            reflectance: number;
        };
        /**
         * GuideRead
         * @description The reference picture for preparing a set, and its imported size.
         *
         *     source : SHA-256 of a file that shows it; the first picture of a measured set
         */
        GuideRead: {
            kind: components["schemas"]["MapKind"];
            /** Definition */
            definition: components["schemas"]["Imported"] | components["schemas"]["Derived"] | components["schemas"]["Constant"];
            /** Source */
            source: string;
            /** Width */
            width: number;
            /** Height */
            height: number;
        };
        /**
         * HealthRead
         * @description The server is running, with its limits.
         *
         *     open : no access token is required
         */
        HealthRead: {
            /** Version */
            version: string;
            limits: components["schemas"]["LimitsRead"];
            /** Delivery Root */
            delivery_root: string;
            /** Open */
            open: boolean;
        };
        /**
         * IgnoreFinding
         * @description A finding by its key, and whether it is ignored.
         */
        IgnoreFinding: {
            /** Finding */
            finding: string;
            /** Ignored */
            ignored: boolean;
        };
        /**
         * ImportReportRead
         * @description Content of a project file besides its sets, one sentence for each entry.
         */
        ImportReportRead: {
            /** Added */
            added: string[];
            /** Merged */
            merged: string[];
            /**
             * Skipped
             * @description skipped items with the reason
             */
            skipped: string[];
        };
        /**
         * Imported
         * @description An imported map: a file or some of its channels, by the SHA-256 of the file.
         *
         *     A set with tiles may have a file per tile; then `source` is the first one's.
         */
        Imported: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            how: "imported";
            /** Source */
            source: string;
            /**
             * Tiles
             * @description file of each tile by its number (1001 is the first, numbers increase to the right, tens upward); empty: one file for every tile
             */
            tiles?: {
                [key: string]: string;
            };
            /**
             * Channels
             * @description file channels in the order of the map; normals use x, y and z, or x and y, from which z is computed
             * @default RGB
             */
            channels: string;
            /** @default srgb */
            encoding: components["schemas"]["Encoding"];
            /** @default up */
            normal_y: components["schemas"]["NormalY"];
            /**
             * Curve
             * @description for normals and data: the sRGB curve applied by mistake, which is undone on reading; encoded made values lighter, decoded darker
             * @default none
             * @enum {string}
             */
            curve: "none" | "encoded" | "decoded";
        };
        /**
         * ImportedMapRead
         * @description A picture imported as a map: its facts, and how it is read.
         */
        ImportedMapRead: {
            facts: components["schemas"]["SourceFactsRead"];
            definition: components["schemas"]["Imported"];
        };
        /**
         * ImportedSourceRead
         * @description An imported picture, the set created from it, and whether picture and set existed before.
         */
        ImportedSourceRead: {
            /** Sha256 */
            sha256: string;
            facts: components["schemas"]["SourceFactsRead"];
            /** Set Id */
            set_id: number;
            /** Set Name */
            set_name: string;
            /** Known Source */
            known_source: boolean;
            /** Known Set */
            known_set: boolean;
            kind: components["schemas"]["MapKind"];
        };
        /**
         * IntakeRead
         * @description The files in Intake.
         */
        IntakeRead: {
            /** Rows */
            rows: components["schemas"]["ArrivalRead"][];
            /** Waiting */
            waiting: number;
            /** Offers */
            offers: components["schemas"]["CardOffer"][];
            /** Surfaces */
            surfaces: components["schemas"]["SurfaceRead"][];
            /**
             * Looking
             * @description pictures to compare, or pictures whose light directions are estimated
             */
            looking: boolean;
            /** Known Sets */
            known_sets: {
                [key: string]: number;
            };
        };
        /**
         * Interpret
         * @description Uses one of the suggested interpretations of a photo, by name.
         */
        Interpret: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "interpret";
            /**
             * About
             * @enum {string}
             */
            about: "relief" | "light" | "invert";
            /** Name */
            name: string;
        };
        /**
         * InterpretationRead
         * @description One interpretation of a photo: its settings, and a lit picture.
         *
         *     current : the set already has these settings; picture : data URL, PNG
         */
        InterpretationRead: {
            /** Name */
            name: string;
            /** Words */
            words: string;
            /** Current */
            current: boolean;
            surface: components["schemas"]["SurfaceSpec"];
            /** Maps */
            maps: {
                [key: string]: components["schemas"]["Imported"] | components["schemas"]["Derived"] | components["schemas"]["Constant"];
            };
            /** Picture */
            picture: string;
        };
        /**
         * InterpretationsQuery
         * @description Interpretations of a set or a draft: relief, light direction, or inversion.
         */
        InterpretationsQuery: {
            /**
             * About
             * @default relief
             * @enum {string}
             */
            about: "relief" | "light" | "invert";
            draft?: components["schemas"]["Draft"] | null;
        };
        /**
         * Invert
         * @description 1 - v; as the last change it is exact on codes.
         */
        Invert: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "invert";
        };
        /**
         * IslandRead
         * @description A UV island: texel density at 1024, and its bounds (minimum u and v, maximum u and v).
         */
        IslandRead: {
            /** Triangles */
            triangles: number;
            /** Density */
            density: number;
            /** Share */
            share: number;
            /** Mirrored */
            mirrored: boolean;
            /** Bounds */
            bounds: number[];
        };
        /**
         * JobRead
         * @description A job, or an open delivery.
         *
         *     id : of the job, or of the delivery if `kind` is "delivery"
         *     title : name of the file or object
         *     progress : in [0, 1]; null if unknown
         *     seconds : running time
         *     seconds_left : estimate; null while unknown
         *     ahead : number of jobs that are carried out first, for a waiting job
         *     files : number of files it represents
         */
        JobRead: {
            /** Kind */
            kind: ("file_detection" | "file_comparison" | "light_estimation" | "light_fit" | "model_import" | "model_display" | "uv_analysis" | "environment_import" | "project_import") | "delivery";
            /** Id */
            id: number;
            /** Title */
            title: string;
            /**
             * State
             * @enum {string}
             */
            state: "queued" | "running" | "done" | "failed" | "cancelled";
            /** Progress */
            progress: number | null;
            /** Step */
            step: string;
            /** Seconds */
            seconds: number | null;
            /** Seconds Left */
            seconds_left: number | null;
            /** Ahead */
            ahead: number;
            /** Files */
            files: number;
            /** Error */
            error: string | null;
            /** Error Code */
            error_code: string | null;
            result: components["schemas"]["JobResultRead"] | null;
            /** Created At */
            created_at: string | null;
            /** Ended At */
            ended_at: string | null;
        };
        /**
         * JobResultRead
         * @description Result of a job; only the fields of its kind are set.
         */
        JobResultRead: {
            /** Model Id */
            model_id: number | null;
            /** Environment Id */
            environment_id: number | null;
            /** Surface Id */
            surface_id: number | null;
            /**
             * Project
             * @description URL slug of the imported project
             */
            project: string | null;
            /**
             * Title
             * @description title of the imported project
             */
            title: string | null;
            /**
             * Sets
             * @description number of sets in the imported project
             */
            sets: number | null;
            report: components["schemas"]["ImportReportRead"] | null;
            /** @description light captures with new light directions */
            captures: components["schemas"]["CapturesSpec"] | null;
        };
        /**
         * KeyUncertaintyQuery
         * @description Query of the uncertainty of a color key; `kind` is the map it creates.
         */
        KeyUncertaintyQuery: {
            kind: components["schemas"]["MapKind"];
            draft?: components["schemas"]["Draft"] | null;
        };
        /**
         * KeyUncertaintyRead
         * @description Shares of selected and uncertain texels; the most frequent color of the uncertain ones.
         */
        KeyUncertaintyRead: {
            /** Near */
            near: number;
            /** Uncertain */
            uncertain: number;
            /** Like */
            like: string | null;
        };
        /**
         * KindGroup
         * @description Kinds of maps that one operation makes in the same way.
         * @enum {string}
         */
        KindGroup: "values" | "vectors" | "ranges" | "masks";
        /**
         * KindRead
         * @description A map type.
         */
        KindRead: {
            kind: components["schemas"]["MapKind"];
            /** Title */
            title: string;
            meaning: components["schemas"]["Meaning"];
            /** Components */
            components: string[];
            /** Neutral */
            neutral: number[];
            /**
             * Multiplies
             * @description the map of the slot can be multiplied by it
             */
            multiplies: boolean;
            /**
             * Is Mask
             * @description selects texels; `mask_` with any name in lower case is such a kind, too
             */
            is_mask: boolean;
            /**
             * Ranged From
             * @description maps whose range can be taken as this one
             */
            ranged_from: components["schemas"]["MapKind"][];
        };
        /**
         * LampSpec
         * @description The light of a capture; see `measuring.light_directions.Lamp`.
         */
        LampSpec: {
            /**
             * Azimuth
             * @description azimuth in degrees, counterclockwise from the right
             */
            azimuth: number;
            /**
             * Elevation
             * @description elevation in degrees above the surface
             */
            elevation: number;
            /**
             * Distance
             * @description distance of a near light in picture widths
             */
            distance?: number | null;
            /**
             * Intensity
             * @description linear value of a white surface directly below it
             * @default 1
             */
            intensity: number;
        };
        /**
         * LeftEntry
         * @description An existing file of an earlier delivery that this one no longer contains.
         */
        LeftEntry: {
            /** Name */
            name: string;
            /** Sha256 */
            sha256: string;
            /** Bytes */
            bytes: number;
        };
        /**
         * LightRead
         * @description Light direction in a picture in degrees, ambiguous by 180° (0 is right or left, 90 top or
         *     bottom).
         */
        LightRead: {
            /** Azimuth */
            azimuth: number;
            /**
             * Strength
             * @description 0: even lighting; 1: all shading from one direction
             */
            strength: number;
            /** Lit */
            lit: boolean;
            /**
             * Share
             * @description weight of the shading once a direction is chosen
             * @default 0.65
             */
            share: number;
        };
        /**
         * LightsQuery
         * @description Estimate the lights of a set's pictures.
         *
         *     how : from the ball at its current position; estimated from the pictures alone; or refined from
         *     the current lights
         *     elevation : elevation in degrees of lights in a ring, for estimation
         */
        LightsQuery: {
            /**
             * How
             * @enum {string}
             */
            how: "ball" | "estimated" | "refined";
            ball?: components["schemas"]["BallSpec"] | null;
            /** Elevation */
            elevation?: number | null;
            draft?: components["schemas"]["Draft"] | null;
        };
        /**
         * LimitsRead
         * @description Limits of imported pictures.
         */
        LimitsRead: {
            /** Max Side */
            max_side: number;
            /** Max Bytes */
            max_bytes: number;
        };
        /**
         * LinkedSetRead
         * @description A set linked to a model; `material` null means the whole model.
         */
        LinkedSetRead: {
            /** Id */
            id: number;
            /** Name */
            name: string;
            /** Material */
            material: string | null;
        };
        /**
         * LitProofRead
         * @description Maps for two lit views (data URLs, PNG): the set's, and those read back from the files.
         *
         *     Colors are sRGB, normals Y+; specular targets are converted to metallic/roughness.
         */
        LitProofRead: {
            /** Before */
            before: {
                [key: string]: string;
            };
            /** After */
            after: {
                [key: string]: string;
            };
            surface: components["schemas"]["SurfaceSpec"];
            /** Aspect */
            aspect: number;
        };
        /**
         * Manifest
         * @description manifest.json, version 2. Version 1 is converted on reading.
         */
        Manifest: {
            /**
             * Format
             * @default copper-sieve/manifest
             * @constant
             */
            format: "copper-sieve/manifest";
            /**
             * Version
             * @default 2
             * @constant
             */
            version: 2;
            /** Set */
            set: string;
            /** Target */
            target: string;
            /** Target Title */
            target_title: string;
            normal_y: components["schemas"]["NormalY"];
            /**
             * Dielectric F0
             * @default 0.04
             */
            dielectric_f0: number;
            /**
             * Height Mid
             * @description height that isn't displaced
             * @default 0.5
             */
            height_mid: number;
            /**
             * Height Unit
             * @default share
             * @enum {string}
             */
            height_unit: "share" | "metres";
            /**
             * @default {
             *       "mode": "none",
             *       "texels": 16,
             *       "above": 0,
             *       "mask": "opacity"
             *     }
             */
            padding: components["schemas"]["Padding"];
            surface: components["schemas"]["SurfaceSpec"];
            /**
             * Depth Key
             * @description content key of the surface's depth, if measured
             */
            depth_key?: string | null;
            /**
             * @description how the set's pictures were prepared
             * @default {
             *       "frame": {
             *         "angle": 0,
             *         "crop": [
             *           0,
             *           0,
             *           1,
             *           1
             *         ],
             *         "mirror": false,
             *         "quarter_turns": 0
             *       },
             *       "marks": []
             *     }
             */
            prepare: components["schemas"]["Preparation"];
            /** @description source card, license, origin */
            origin?: components["schemas"]["Origin"] | null;
            /** @description the light captures that the set was measured from */
            captures?: components["schemas"]["CapturesSpec"] | null;
            /** Maps */
            maps: {
                [key: string]: components["schemas"]["MapEntry"];
            };
            /** Files */
            files: components["schemas"]["FileEntry"][];
            /**
             * Documents
             * @default []
             */
            documents: components["schemas"]["DocumentEntry"][];
            /**
             * Left
             * @default []
             */
            left: components["schemas"]["LeftEntry"][];
            /**
             * Remarks
             * @description information for the reader
             * @default []
             */
            remarks: string[];
        };
        /**
         * MapEntry
         * @description Source of a map of the set, and its content key at the delivered size.
         */
        MapEntry: {
            /** Content Key */
            content_key: string;
            /** Definition */
            definition: components["schemas"]["Imported"] | components["schemas"]["Derived"] | components["schemas"]["Constant"];
        };
        /**
         * MapKind
         * @description One surface property of a texture set, with its `facts`.
         *
         *     Masks with a name of the user's own, such as `mask_edge_wear`, are kinds too, though no members:
         *     they are created when they are looked up.
         */
        MapKind: ("base_color" | "diffuse" | "specular_color" | "specular_level" | "f0" | "metallic" | "roughness" | "glossiness" | "normal" | "height" | "ambient_occlusion" | "cavity" | "curvature" | "bent_normal" | "emissive" | "opacity" | "emissive_strength" | "translucency" | "transmission" | "thickness" | "attenuation_color" | "sheen_color" | "sheen_roughness" | "clearcoat" | "clearcoat_roughness" | "clearcoat_normal" | "anisotropy" | "anisotropy_direction" | "specular_weight" | "specular_tint" | "iridescence" | "iridescence_thickness" | "porosity" | "subsurface" | "subsurface_color" | "subsurface_radius" | "uncertainty" | "detail_mask" | "mask_1" | "mask_2" | "mask_3" | "mask_4") | `mask_${string}`;
        /**
         * MapRead
         * @description One map of a set with its definition and the URL of its thumbnail.
         */
        MapRead: {
            kind: components["schemas"]["MapKind"];
            /** Definition */
            definition: components["schemas"]["Imported"] | components["schemas"]["Derived"] | components["schemas"]["Constant"];
            /** Key */
            key: string;
            /** Thumbnail */
            thumbnail: string;
        };
        /**
         * Mark
         * @description A blemish: a closed outline that is filled from the rest of the picture, in all maps.
         */
        Mark: {
            /** Outline */
            outline: number[][];
        };
        /**
         * MaterialGroupRead
         * @description The triangles of one material in a mesh, and the outline segments of its UV islands.
         */
        MaterialGroupRead: {
            /** Name */
            name: string;
            /** First */
            first: number;
            /** Count */
            count: number;
            /** First Border */
            first_border: number;
            /** Borders */
            borders: number;
        };
        /**
         * MaterialRead
         * @description A material of a model: the sets linked to it, or else a set with the same name.
         */
        MaterialRead: {
            /** Name */
            name: string;
            /** Triangles */
            triangles: number;
            /** Sets */
            sets: components["schemas"]["LinkedSetRead"][];
            /** Proposed */
            proposed: number | null;
        };
        /**
         * Meaning
         * @description Meaning of the float values of a raster.
         * @enum {string}
         */
        Meaning: "color" | "data" | "normal";
        /**
         * MemoryRead
         * @description Bytes on the GPU, block-compressed and uncompressed.
         */
        MemoryRead: {
            /** Format */
            format: string;
            /** Blocks */
            blocks: number;
            /** Plain */
            plain: number;
            /** Remark */
            remark: string;
        };
        /**
         * Merge
         * @description Adds the maps of sets to one of them; the others are deleted.
         */
        Merge: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "merge";
            /** Into */
            into: number;
        };
        /**
         * MeshRead
         * @description Header of a mesh; the values follow, all float32 except the last:
         *
         *     positions (3 per vertex, meters), normals (3), uvs (2, v down), tangents (4, MikkTSpace),
         *     outline segments (4 each: u, v to u, v), and triangle indices (3 each, uint32).
         */
        MeshRead: {
            /** Corners */
            corners: number;
            /** Triangles */
            triangles: number;
            /** Borders */
            borders: number;
            /** Groups */
            groups: components["schemas"]["MaterialGroupRead"][];
            /** Low */
            low: number[];
            /** High */
            high: number[];
            /** Uv Sets */
            uv_sets: number;
        };
        /**
         * MessageRead
         * @description A message about sets.
         */
        MessageRead: {
            /** Text */
            text: string;
            /** Set Ids */
            set_ids: number[];
        };
        /**
         * ModelLink
         * @description A linked model; baked maps depend on all of these fields.
         */
        ModelLink: {
            /**
             * Source
             * @description SHA-256 of the model file
             */
            source: string;
            /**
             * Material
             * @description material whose UV islands the set covers; null: the whole model
             */
            material?: string | null;
            /**
             * Uv Set
             * @default 0
             */
            uv_set: number;
            /**
             * High Poly
             * @description SHA-256 of the high-poly model
             */
            high_poly?: string | null;
            /**
             * Cage
             * @description distance in meters from the low-poly model at which rays start; null: measured
             */
            cage?: number | null;
            /**
             * Match By Name
             * @description only parts of both models that have the same name are matched
             * @default false
             */
            match_by_name: boolean;
            /**
             * Match By Uvs
             * @description the high-poly model is a subdivision: match by UVs, not rays
             * @default false
             */
            match_by_uvs: boolean;
        };
        /**
         * ModelLinkWrite
         * @description Link a set to a model; null removes the link.
         */
        ModelLinkWrite: {
            link: components["schemas"]["ModelLink"] | null;
        };
        /**
         * ModelRead
         * @description A model of a project.
         */
        ModelRead: {
            /** Id */
            id: number;
            /** Sha256 */
            sha256: string;
            /** Name */
            name: string;
            /** Bytes */
            bytes: number;
            /** Triangles */
            triangles: number;
            /** Uv Sets */
            uv_sets: number;
            /**
             * Extent
             * @description meters, longest side of the bounding box
             */
            extent: number;
            /** Parts */
            parts: number;
            /**
             * Tangents
             * @description the file contains tangents
             */
            tangents: boolean;
            /** Colors */
            colors: boolean;
            /** Remarks */
            remarks: string[];
            /**
             * Created At
             * Format: date-time
             */
            created_at: string;
            /** Materials */
            materials: components["schemas"]["MaterialRead"][];
            /**
             * Whole
             * @description sets linked to the whole model
             */
            whole: components["schemas"]["LinkedSetRead"][];
            /**
             * Serves
             * @description models that use this one as high-poly
             */
            serves: components["schemas"]["LinkedSetRead"][];
        };
        /**
         * Move
         * @description Moves sets to another project.
         */
        Move: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "move";
            /** Project */
            project: string;
        };
        /**
         * NameStyle
         * @description Case and separator of file names after their pattern is filled; extensions are unchanged.
         */
        NameStyle: {
            /**
             * Case
             * @default as_written
             * @enum {string}
             */
            case: "as_written" | "lower" | "upper" | "title";
            /**
             * Separator
             * @default as_written
             * @enum {string}
             */
            separator: "as_written" | "underscore" | "hyphen" | "dot" | "none";
        };
        /**
         * NewWebhookRead
         * @description A webhook with the secret that its messages are signed with.
         */
        NewWebhookRead: {
            /** Id */
            id: number;
            /** Url */
            url: string;
            /**
             * Created At
             * Format: date-time
             */
            created_at: string;
            /** Last Called At */
            last_called_at: string | null;
            /**
             * Last Error
             * @description null: the last call succeeded
             */
            last_error: string | null;
            /**
             * Failing Since
             * @description start of the current series of failures
             */
            failing_since: string | null;
            /**
             * Paused At
             * @description paused by the user, or after a day of failures
             */
            paused_at: string | null;
            /**
             * Waiting
             * @description messages waiting to be sent
             */
            waiting: number;
            /** Secret */
            secret: string;
        };
        /**
         * NormalRead
         * @description Green direction: current value and measurement.
         */
        NormalRead: {
            y: components["schemas"]["NormalY"] | null;
            /** Measured */
            measured: string;
            /** Confidence */
            confidence: number;
            /** Reason */
            reason: string;
            /**
             * Decided By
             * @enum {string}
             */
            decided_by: "detected" | "card" | "user";
        };
        /**
         * NormalY
         * @description Green direction of a normal map.
         * @enum {string}
         */
        NormalY: "up" | "down";
        /**
         * OpenFindingRead
         * @description A checklist finding in short form.
         */
        OpenFindingRead: {
            /**
             * Rule
             * @enum {string}
             */
            rule: "transfer_curve" | "channel_order" | "swapped_channels" | "green_direction" | "mixed_green" | "inverted_relief" | "vector_length" | "looks_like_glossiness" | "looks_like_roughness" | "implausible_color" | "dark_metal" | "clipped_roughness" | "not_tileable" | "sizes_differ" | "uv_missing" | "uv_overlaps" | "uv_outside" | "uv_mirrored" | "uv_gaps" | "uv_uneven_density" | "uv_degenerate" | "uv_hard_edges";
            kind: components["schemas"]["MapKind"];
            /**
             * Weight
             * @enum {string}
             */
            weight: "info" | "warning" | "error";
        };
        /**
         * OperationRead
         * @description Declaration of an operation.
         */
        OperationRead: {
            /** Name */
            name: string;
            /** Version */
            version: number;
            /** Title */
            title: string;
            /**
             * Outputs
             * @description declared kinds of maps that it makes
             */
            outputs: components["schemas"]["MapKind"][];
            /** @description what these kinds have in common */
            group: components["schemas"]["KindGroup"] | null;
            /** Inputs */
            inputs: components["schemas"]["MapKind"][];
            /**
             * Blends
             * @description it reads maps of the sets that are blended
             */
            blends: boolean;
            /**
             * Takes From
             * @description required input: the linked model, a high-poly model, or the light captures of the set
             */
            takes_from: ("model" | "high_poly" | "captures") | null;
            /** Parameters */
            parameters: components["schemas"]["ParameterRead"][];
            /** Slots */
            slots: components["schemas"]["SlotRead"][];
        };
        /**
         * Origin
         * @description The part of a source card that a set stores; written to manifests.
         */
        Origin: {
            /** Card */
            card: string;
            /**
             * Licence
             * @default
             */
            licence: string;
            /**
             * Where
             * @default
             */
            where: string;
        };
        /**
         * Padding
         * @description Padding of colors and data beyond a mask.
         *
         *     none; texels : this many; border : everything
         *     mask : map that defines the covered area; without it there is no padding
         *     above : values above this count as covered
         */
        Padding: {
            /**
             * Mode
             * @default none
             * @enum {string}
             */
            mode: "none" | "texels" | "border";
            /**
             * Texels
             * @default 16
             */
            texels: number;
            /**
             * Above
             * @default 0
             */
            above: number;
            /** @default opacity */
            mask: components["schemas"]["MapKind"];
        };
        /**
         * ParameterRead
         * @description A parameter of an operation.
         */
        ParameterRead: {
            /** Name */
            name: string;
            /** Label */
            label: string;
            /** Meaning */
            meaning: string;
            /** Default */
            default: number | boolean | string;
            /** Low */
            low: number;
            /** High */
            high: number;
            /** Unit */
            unit: string;
            /** Group */
            group: string;
            /** Choices */
            choices: string[];
            /** Most */
            most: number;
            /**
             * Form
             * @enum {string}
             */
            form: "number" | "switch" | "choice" | "colors" | "names";
        };
        /**
         * PlacementSpec
         * @description Position of a capture relative to the surface.
         */
        PlacementSpec: {
            /**
             * Right
             * @description in picture widths
             * @default 0
             */
            right: number;
            /**
             * Down
             * @description in picture widths
             * @default 0
             */
            down: number;
            /**
             * Rotation
             * @description degrees clockwise
             * @default 0
             */
            rotation: number;
        };
        /**
         * Power
         * @description v to the power of an exponent.
         */
        Power: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "power";
            /** Exponent */
            exponent: number;
        };
        /**
         * Preparation
         * @description The preparation steps; defaults have no effect.
         */
        Preparation: {
            /**
             * @default {
             *       "quarter_turns": 0,
             *       "mirror": false,
             *       "angle": 0,
             *       "crop": [
             *         0,
             *         0,
             *         1,
             *         1
             *       ]
             *     }
             */
            frame: components["schemas"]["FrameSpec"];
            /**
             * Marks
             * @default []
             */
            marks: components["schemas"]["Mark"][];
            light?: components["schemas"]["EvenLight"] | null;
            seams?: components["schemas"]["Seams"] | null;
            size?: components["schemas"]["Size"] | null;
            ruler?: components["schemas"]["Ruler"] | null;
        };
        /**
         * PreviewCreate
         * @description Maps to compute, their size, and the window that shows them.
         */
        PreviewCreate: {
            draft?: components["schemas"]["Draft"] | null;
            /** Kinds */
            kinds?: components["schemas"]["MapKind"][] | null;
            /**
             * Longer Side
             * @default 1024
             */
            longer_side: number;
            /** Compute Side */
            compute_side?: number | null;
            /**
             * Window
             * @default
             */
            window: string;
            /**
             * Sequence
             * @default 0
             */
            sequence: number;
            /** Known */
            known?: string[];
        };
        /**
         * PreviewMapRead
         * @description One map: its codes have `channels` bytes per texel, first row at the top; no codes if the
         *     client has them.
         */
        PreviewMapRead: {
            /** Key */
            key: string;
            /** Width */
            width: number;
            /** Height */
            height: number;
            /** Channels */
            channels: number;
            /** Bytes */
            bytes: number;
        };
        /**
         * PreviewRead
         * @description Header of a preview: the maps in the order of their codes.
         *
         *     width, height, surface : after preparation
         *     width_share : prepared width divided by the imported width
         *     sheet : the UV tiles of the set, which are adjacent in each map
         */
        PreviewRead: {
            /** Maps */
            maps: {
                [key: string]: components["schemas"]["PreviewMapRead"];
            };
            /** Width */
            width: number;
            /** Height */
            height: number;
            surface: components["schemas"]["SurfaceSpec"];
            /** Width Share */
            width_share: number;
            guide: components["schemas"]["GuideRead"] | null;
            sheet: components["schemas"]["SheetRead"] | null;
        };
        /**
         * Problem
         * @description Problem details of an error (RFC 9457).
         */
        Problem: {
            /** Type */
            type: string;
            /** Title */
            title: string;
            /** Status */
            status: number;
            /** Detail */
            detail: string;
        };
        /**
         * ProgressRead
         * @description Progress of a preview; `seconds_left` is null if unknown.
         */
        ProgressRead: {
            /** Step */
            step: string;
            /** Share */
            share: number;
            /** Seconds */
            seconds: number;
            /** Seconds Left */
            seconds_left: number | null;
        };
        /**
         * ProjectChange
         * @description Changes the title, deletes, or restores (within 30 days). Missing fields stay unchanged.
         */
        ProjectChange: {
            /** Title */
            title?: string | null;
            /** Deleted */
            deleted?: boolean | null;
        };
        /**
         * ProjectCreate
         * @description A new project; `copy_of` is the slug of a project whose sets are copied.
         */
        ProjectCreate: {
            /** Title */
            title: string;
            /** Copy Of */
            copy_of?: string | null;
        };
        /**
         * ProjectRead
         * @description A project in lists.
         */
        ProjectRead: {
            /** Slug */
            slug: string;
            /** Title */
            title: string;
            /** Sets */
            sets: number;
            /**
             * Created At
             * Format: date-time
             */
            created_at: string;
            /**
             * Changed At
             * @description when one of its sets last changed
             */
            changed_at: string | null;
            /**
             * Deleted At
             * @description when it was deleted
             */
            deleted_at: string | null;
            /**
             * Latest
             * @description up to five sets that changed last
             */
            latest: number[];
        };
        /**
         * ProofRead
         * @description The material before and after conversion, rendered with one shader (data URLs, PNG);
         *     CIEDE2000 between them.
         */
        ProofRead: {
            /** Before */
            before: string;
            /** After */
            after: string;
            /** Mean */
            mean: number;
            /** Largest */
            largest: number;
        };
        /**
         * Range
         * @description Maps one range of values linearly to another; other values are clamped.
         */
        Range: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "range";
            /**
             * Of
             * @default [
             *       0,
             *       1
             *     ]
             */
            of: number[];
            /**
             * To
             * @default [
             *       0,
             *       1
             *     ]
             */
            to: number[];
        };
        /**
         * RayMissesQuery
         * @description Query of ray misses for a set or a draft.
         */
        RayMissesQuery: {
            draft?: components["schemas"]["Draft"] | null;
        };
        /**
         * RayMissesRead
         * @description Share of rays that miss the high-poly model, and where (data URL, PNG).
         *
         *     cage : ray start distance in meters; widest : largest sensible cage distance
         */
        RayMissesRead: {
            /** Share */
            share: number;
            /** Cage */
            cage: number;
            /** Widest */
            widest: number;
            /** Picture */
            picture: string | null;
        };
        /**
         * Recipe
         * @description A recipe file, version 1. Required inputs of operations are filled by each set.
         */
        Recipe: {
            /**
             * Format
             * @default copper-sieve/recipe
             * @constant
             */
            format: "copper-sieve/recipe";
            /**
             * Version
             * @default 1
             * @constant
             */
            version: 1;
            /** Name */
            name: string;
            surface?: components["schemas"]["RecipeSurface"] | null;
            /** Maps */
            maps: {
                [key: string]: components["schemas"]["Derived"] | components["schemas"]["Constant"];
            };
        };
        /**
         * RecipeCreate
         * @description Save the settings of a set under a name.
         */
        RecipeCreate: {
            /** Name */
            name: string;
            /** Set Id */
            set_id: number;
            /**
             * Replace
             * @default false
             */
            replace: boolean;
        };
        /**
         * RecipeImport
         * @description A recipe file.
         */
        RecipeImport: {
            recipe: components["schemas"]["Recipe"];
            /**
             * Replace
             * @default false
             */
            replace: boolean;
        };
        /**
         * RecipeImported
         * @description An imported recipe, and skipped parts of it.
         */
        RecipeImported: {
            recipe: components["schemas"]["RecipeRead"];
            /** Remarks */
            remarks: string[];
        };
        /**
         * RecipeRead
         * @description A recipe in lists.
         */
        RecipeRead: {
            /** Id */
            id: number;
            /** Name */
            name: string;
            /** Maps */
            maps: components["schemas"]["MapKind"][];
            /**
             * Updated At
             * Format: date-time
             */
            updated_at: string;
        };
        /**
         * RecipeSurface
         * @description The part of the surface that a recipe sets; tiling belongs to the picture.
         */
        RecipeSurface: {
            /** Tile Size */
            tile_size: number;
            /** Depth */
            depth?: number | null;
            /**
             * Relief
             * @default 6
             */
            relief: number;
        };
        /**
         * RefusalRead
         * @description A file of an archive that wasn't imported.
         */
        RefusalRead: {
            /** Name */
            name: string;
            /** Message */
            message: string;
        };
        /**
         * RemarkRead
         * @description A message about a delivery.
         */
        RemarkRead: {
            /**
             * Weight
             * @enum {string}
             */
            weight: "info" | "warning" | "error";
            /** Text */
            text: string;
            /**
             * Cause
             * @description identifies a warning that can be dismissed; else empty
             */
            cause: string;
        };
        /**
         * RemovedLightingQuery
         * @description Query of the lighting removed by the preparation or by the base color's settings.
         */
        RemovedLightingQuery: {
            /**
             * By
             * @default preparation
             * @enum {string}
             */
            by: "preparation" | "base_color";
            draft?: components["schemas"]["Draft"] | null;
        };
        /**
         * RemovedLightingRead
         * @description The removed lighting: a picture (data URL, PNG; null if none) and its range in stops; and the
         *     remaining dark blotches.
         */
        RemovedLightingRead: {
            /** Picture */
            picture: string | null;
            /** Stops */
            stops: number;
            blotches: components["schemas"]["BlotchesRead"] | null;
        };
        /**
         * Rename
         * @description Renames one set and its future delivered files.
         */
        Rename: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "rename";
            /** Name */
            name: string;
        };
        /**
         * ReplaceInNames
         * @description Replaces a text in the names, ignoring case.
         */
        ReplaceInNames: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "replace_in_names";
            /** Find */
            find: string;
            /**
             * Into
             * @default
             */
            into: string;
        };
        /**
         * Restore
         * @description Restores the sets of a delivery, except for their names.
         */
        Restore: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "restore";
            /** Delivery Id */
            delivery_id: number;
        };
        /**
         * Ruler
         * @description A known length on the picture, which gives the real width regardless of cropping.
         */
        Ruler: {
            /** Start */
            start: number[];
            /** End */
            end: number[];
            /** Metres */
            metres: number;
        };
        /**
         * SeamMethodRead
         * @description One method: its settings, and its measurements on the set's reference map.
         *
         *     before, after : seam visibility, 1 is invisible; axis : of the worst remaining seam
         *     contrast_loss : share of fine contrast lost in the overlap, or of detail smeared without one, 0
         *     to 1
         *     broken : share of the join that resembles no part of the picture, 0 to 1
         *     breaks : what is broken and where; null if nothing is
         */
        SeamMethodRead: {
            seams: components["schemas"]["Seams"];
            /** Before */
            before: number;
            /** After */
            after: number;
            /**
             * Axis
             * @enum {string}
             */
            axis: "x" | "y";
            /** Contrast Loss */
            contrast_loss: number;
            /** Broken */
            broken: number;
            /** Breaks */
            breaks: string | null;
            /** Good */
            good: boolean;
        };
        /**
         * SeamMethodsRead
         * @description All methods, and the suggested one.
         *
         *     None is suggested if the set is tileable already, or if every method breaks something; `refused`
         *     then contains the reason.
         */
        SeamMethodsRead: {
            /** Chosen */
            chosen: ("gradient" | "blend" | "cut") | null;
            /** Refused */
            refused: string | null;
            /** Ways */
            ways: {
                [key: string]: components["schemas"]["SeamMethodRead"];
            };
        };
        /**
         * Seams
         * @description Method of making the picture tileable; see `operations.prepare.make_tileable`.
         */
        Seams: {
            /**
             * Method
             * @enum {string}
             */
            method: "gradient" | "blend" | "cut";
            /**
             * Overlap
             * @description shares of the width and height that are cut off
             * @default [
             *       0,
             *       0
             *     ]
             */
            overlap: number[];
            /**
             * By Measure
             * @description the method was suggested, not chosen by the user
             * @default true
             */
            by_measure: boolean;
        };
        /**
         * SeamsMeasure
         * @description Query of the methods of making a set, or a draft, tileable.
         */
        SeamsMeasure: {
            draft?: components["schemas"]["Draft"] | null;
        };
        /**
         * Segment
         * @description One of several maps in one channel, each with its own range of codes.
         *
         *     component : as in a slot
         *     codes : 8-bit codes of its values 0 and 1 (times 257 with 16 bits)
         *     above : used where its changed value is above this; None for the last one: everywhere else
         */
        Segment: {
            map: components["schemas"]["MapKind"];
            /**
             * Component
             * @default v
             * @enum {string}
             */
            component: "r" | "g" | "b" | "l" | "x" | "y" | "z" | "v";
            /**
             * Changes
             * @default []
             */
            changes: (components["schemas"]["Invert"] | components["schemas"]["Range"] | components["schemas"]["Power"] | components["schemas"]["Threshold"] | components["schemas"]["Clamp"])[];
            /** Codes */
            codes: number[];
            /** Above */
            above?: number | null;
        };
        /**
         * SetChoice
         * @description The sets to apply something to.
         */
        SetChoice: {
            /** Set Ids */
            set_ids: number[];
        };
        /**
         * SetConstant
         * @description Sets a constant for a map.
         */
        SetConstant: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "constant";
            kind: components["schemas"]["MapKind"];
            /** Value */
            value: number[];
        };
        /**
         * SetRead
         * @description A texture set with all details.
         */
        SetRead: {
            /** Id */
            id: number;
            /** Version */
            version: number;
            /** Name */
            name: string;
            /** Width */
            width: number;
            /** Height */
            height: number;
            surface: components["schemas"]["SurfaceSpec"];
            /** @description size after preparation */
            prepared_surface: components["schemas"]["SurfaceSpec"];
            prepare: components["schemas"]["Preparation"];
            /** Maps */
            maps: components["schemas"]["MapRead"][];
            /**
             * Lit
             * @description URL of a small preview under the reference light
             */
            lit: string;
            /** Shelf */
            shelf: {
                [key: string]: (components["schemas"]["Imported"] | components["schemas"]["Derived"] | components["schemas"]["Constant"])[];
            };
            origin: components["schemas"]["Origin"] | null;
            /** Readiness */
            readiness: {
                [key: string]: "ready" | "delivered" | "stale";
            };
            /** @description its tiles; width and height cover all tiles together */
            sheet: components["schemas"]["SheetRead"] | null;
            /** @description the linked model */
            model: components["schemas"]["ModelLink"] | null;
            /** @description the light captures that the set is measured from */
            captures: components["schemas"]["CapturesSpec"] | null;
            /**
             * Blended Of
             * @description names of the sets that it blends
             */
            blended_of: {
                [key: string]: string;
            };
            /** Can Undo */
            can_undo: boolean;
            /** Can Redo */
            can_redo: boolean;
            /** @description whether the imported reference map is tileable */
            tiling: components["schemas"]["TilingRead"] | null;
            /** @description of the reference map after preparation */
            light: components["schemas"]["LightRead"] | null;
        };
        /**
         * SetStep
         * @description Undo or redo; `version` is the version it is based on.
         */
        SetStep: {
            /** Version */
            version: number;
        };
        /**
         * SetUpdate
         * @description New definition of a set; `version` is the version it is based on.
         */
        SetUpdate: {
            /** Version */
            version: number;
            surface: components["schemas"]["SurfaceSpec"];
            /**
             * @default {
             *       "frame": {
             *         "angle": 0,
             *         "crop": [
             *           0,
             *           0,
             *           1,
             *           1
             *         ],
             *         "mirror": false,
             *         "quarter_turns": 0
             *       },
             *       "marks": []
             *     }
             */
            prepare: components["schemas"]["Preparation"];
            /** Maps */
            maps: {
                [key: string]: components["schemas"]["Imported"] | components["schemas"]["Derived"] | components["schemas"]["Constant"];
            };
            /** Shelf */
            shelf?: {
                [key: string]: (components["schemas"]["Imported"] | components["schemas"]["Derived"] | components["schemas"]["Constant"])[];
            };
            model?: components["schemas"]["ModelLink"] | null;
            /** @description null keeps the current value */
            captures?: components["schemas"]["CapturesSpec"] | null;
            /**
             * Amends
             * @description merges with the previous change into one undo step
             * @default false
             */
            amends: boolean;
        };
        /**
         * SheetRead
         * @description Layout of the UV tiles of a set: the grid, and its upper left position, v down.
         */
        SheetRead: {
            /** Numbers */
            numbers: number[];
            /** Left */
            left: number;
            /** Top */
            top: number;
            /** Columns */
            columns: number;
            /** Rows */
            rows: number;
        };
        /**
         * Size
         * @description Texels of the set; default: the frame at its finest texel size.
         */
        Size: {
            /** Longer Side */
            longer_side: number;
            /**
             * Square
             * @description the shorter side is stretched to the same length
             * @default false
             */
            square: boolean;
        };
        /**
         * SizeRule
         * @description Size of the files by their longer side; the aspect ratio is unchanged.
         *
         *     source : as the set (of a file: as the target)
         *     half, quarter : of that
         *     fixed : a number of texels
         *     at_most : an upper limit
         *     power_of_two : the nearest one
         */
        SizeRule: {
            /**
             * Mode
             * @default source
             * @enum {string}
             */
            mode: "source" | "half" | "quarter" | "fixed" | "at_most" | "power_of_two";
            /** Longer Side */
            longer_side?: number | null;
        };
        /**
         * SkippedRead
         * @description A skipped cell, and why it can't be delivered.
         */
        SkippedRead: {
            /** Set Id */
            set_id: number;
            /** Set Name */
            set_name: string;
            /** Target Id */
            target_id: string;
            /** Reason */
            reason: string;
        };
        /**
         * Slot
         * @description Content of one channel of a file: a map's component, a constant in [0, 1], or segments.
         *
         *     times : factor before changes; not for normals
         *     component : of a color r, g, b or l (luminance), of a normal x, y or z, else v
         *     if_missing : derive the map, use its neutral value, skip the file (or alpha), or refuse; a
         *         segment whose map is missing is skipped
         */
        Slot: {
            map?: components["schemas"]["MapKind"] | null;
            /**
             * Component
             * @default v
             * @enum {string}
             */
            component: "r" | "g" | "b" | "l" | "x" | "y" | "z" | "v";
            times?: components["schemas"]["Times"] | null;
            /**
             * Changes
             * @default []
             */
            changes: (components["schemas"]["Invert"] | components["schemas"]["Range"] | components["schemas"]["Power"] | components["schemas"]["Threshold"] | components["schemas"]["Clamp"])[];
            /** Constant */
            constant?: number | null;
            /**
             * Segments
             * @default []
             */
            segments: components["schemas"]["Segment"][];
            /**
             * If Missing
             * @default derive
             * @enum {string}
             */
            if_missing: "derive" | "neutral" | "omit" | "stop";
        };
        /**
         * SlotRead
         * @description An additional input that the user may choose.
         */
        SlotRead: {
            /** Name */
            name: string;
            /** Label */
            label: string;
            /** Meaning */
            meaning: string;
            takes: components["schemas"]["MapKind"];
            /**
             * As Output
             * @description it takes the kind of map that is made, not `takes`
             */
            as_output: boolean;
            /** Required */
            required: boolean;
            /** Prefers */
            prefers: components["schemas"]["MapKind"][];
            /** Group */
            group: string;
        };
        /**
         * SourceCard
         * @description Conventions of one source.
         *
         *     marks : meaning of the words at the end of its file names
         *     packed : channels of packed files by such words
         */
        SourceCard: {
            /** Name */
            name: string;
            /** @description green direction of its normal maps */
            normal_y?: components["schemas"]["NormalY"] | null;
            /**
             * Relief
             * @description mean slope in degrees for sets from this source
             */
            relief?: number | null;
            /** Marks */
            marks?: {
                [key: string]: components["schemas"]["MapKind"];
            };
            /** Packed */
            packed?: {
                [key: string]: {
                    [key: string]: components["schemas"]["MapKind"] | null;
                };
            };
            /**
             * Licence
             * @default
             */
            licence: string;
            /**
             * Where
             * @description where its files come from
             * @default
             */
            where: string;
        };
        /**
         * SourceFactsRead
         * @description Facts about an imported file.
         */
        SourceFactsRead: {
            /** File Name */
            file_name: string;
            /** Format */
            format: string;
            /** Width */
            width: number;
            /** Height */
            height: number;
            /** Channels */
            channels: string[];
            /** Bit Depth */
            bit_depth: number;
            /** Float */
            float: boolean;
            /** Encoding */
            encoding: string;
            /** Encoding Source */
            encoding_source: string;
            /** Bytes */
            bytes: number;
            /**
             * Cut Out
             * @default false
             */
            cut_out: boolean;
            tiling: components["schemas"]["TilingRead"] | null;
            light: components["schemas"]["LightRead"] | null;
        };
        /**
         * StaleFilesRead
         * @description A stale cell, with the number of files that would change, out of all its files.
         */
        StaleFilesRead: {
            /** Set Id */
            set_id: number;
            /** Target Id */
            target_id: string;
            /** Differ */
            differ: number;
            /** Of */
            of: number;
        };
        /**
         * SurfaceAccept
         * @description Create a set from pictures of one surface; null: the name is taken from the file names.
         */
        SurfaceAccept: {
            /** Name */
            name?: string | null;
        };
        /**
         * SurfaceRead
         * @description Pictures of one surface with different lights, which can be imported as one set.
         *
         *     captures : placement and light of each picture; null while they are being estimated or if that
         *     failed
         *     thumbnails : in the order of the pictures
         */
        SurfaceRead: {
            /** Id */
            id: number;
            /** Name */
            name: string;
            /** Ids */
            ids: number[];
            captures: components["schemas"]["CapturesSpec"] | null;
            /** Error */
            error: string | null;
            /** Thumbnails */
            thumbnails: string[];
            /** Width */
            width: number;
            /** Height */
            height: number;
        };
        /**
         * SurfaceSpec
         * @description Physical properties of a set; see `operations.SurfaceContext`.
         *
         *     In a set the width is that of the imported reference map; `graph.geometry.geometry_of` returns
         *     the prepared one.
         */
        SurfaceSpec: {
            /**
             * Tile Size
             * @description width in meters of the reference map as imported, or of one of its tiles
             * @default 1
             */
            tile_size: number;
            /**
             * Depth
             * @description meters between height 0 and 1; null: from the imported normal map, or else from the mean slope
             */
            depth?: number | null;
            /**
             * Relief
             * @description mean slope in degrees where nothing else determines the depth
             * @default 6
             */
            relief: number;
            /**
             * Wrap
             * @description tiling: both directions (true), none (false), across or down
             * @default false
             */
            wrap: boolean | ("across" | "down");
        };
        /**
         * TargetFileRead
         * @description A file that a target writes, by the name used to exclude it.
         */
        TargetFileRead: {
            /** Name */
            name: string;
            /** Is On */
            is_on: boolean;
        };
        /**
         * TargetOptions
         * @description Overrides of a target.
         *
         *     longer_side : texels of the longer side of every file with the target's size
         *     format : format of all files
         *     off : files that aren't written, by suffix, or by name pattern without one
         *     copy_to : URL of a second destination, with the same layout
         */
        TargetOptions: {
            /** Longer Side */
            longer_side?: number | null;
            /** Format */
            format?: string | null;
            padding?: components["schemas"]["Padding"] | null;
            /**
             * Off
             * @default []
             */
            off: string[];
            /** Copy To */
            copy_to?: string | null;
        };
        /**
         * TargetPreset
         * @description A target. Built-in ones are read-only JSON files; custom ones are stored on the server.
         *
         *     resampling : nearest for pixel art, whose texels must not be mixed
         *     dielectric_f0 : reflectance of dielectrics in workflow conversions
         *     height_mid : height without displacement
         *     height_unit : meters require floating point
         */
        TargetPreset: {
            /**
             * Format
             * @default copper-sieve/target-preset
             * @constant
             */
            format: "copper-sieve/target-preset";
            /**
             * Version
             * @default 1
             * @constant
             */
            version: 1;
            /** Id */
            id: string;
            /** Title */
            title: string;
            /**
             * Note
             * @default
             */
            note: string;
            /**
             * Workflow
             * @default metal_rough
             * @enum {string}
             */
            workflow: "metal_rough" | "spec_gloss";
            normal_y: components["schemas"]["NormalY"];
            /**
             * @default {
             *       "mode": "source"
             *     }
             */
            size: components["schemas"]["SizeRule"];
            /**
             * Resampling
             * @default smooth
             * @enum {string}
             */
            resampling: "smooth" | "nearest";
            /**
             * @default {
             *       "mode": "none",
             *       "texels": 16,
             *       "above": 0,
             *       "mask": "opacity"
             *     }
             */
            padding: components["schemas"]["Padding"];
            /**
             * Dielectric F0
             * @default 0.04
             */
            dielectric_f0: number;
            /**
             * Height Mid
             * @default 0.5
             */
            height_mid: number;
            /**
             * Height Unit
             * @default share
             * @enum {string}
             */
            height_unit: "share" | "metres";
            /**
             * @default {
             *       "case": "as_written",
             *       "separator": "as_written"
             *     }
             */
            names: components["schemas"]["NameStyle"];
            /** Files */
            files: components["schemas"]["FileSpec"][];
            /**
             * Documents
             * @default []
             */
            documents: components["schemas"]["DocumentSpec"][];
        };
        /**
         * TargetPreviewCreate
         * @description A target, and the set to preview it with.
         */
        TargetPreviewCreate: {
            preset: components["schemas"]["TargetPreset"];
            /** Set Id */
            set_id: number;
            /**
             * Environment
             * @description lighting of the comparison; null: three lights
             */
            environment?: number | null;
        };
        /**
         * TargetPreviewRead
         * @description The files that a target would write for a set, or the reason why it can't.
         */
        TargetPreviewRead: {
            /** Files */
            files: components["schemas"]["TriedFileRead"][];
            /** Documents */
            documents: string[];
            /** Remarks */
            remarks: components["schemas"]["RemarkRead"][];
            /** Error */
            error: string | null;
            /** @description null where the files contain no complete material */
            proof: components["schemas"]["ProofRead"] | null;
        };
        /**
         * TargetRead
         * @description A target; `own` ones can be edited, `edition` is their version.
         */
        TargetRead: {
            /**
             * Format
             * @default copper-sieve/target-preset
             * @constant
             */
            format: "copper-sieve/target-preset";
            /**
             * Version
             * @default 1
             * @constant
             */
            version: 1;
            /** Id */
            id: string;
            /** Title */
            title: string;
            /**
             * Note
             * @default
             */
            note: string;
            /**
             * Workflow
             * @default metal_rough
             * @enum {string}
             */
            workflow: "metal_rough" | "spec_gloss";
            normal_y: components["schemas"]["NormalY"];
            /**
             * @default {
             *       "mode": "source"
             *     }
             */
            size: components["schemas"]["SizeRule"];
            /**
             * Resampling
             * @default smooth
             * @enum {string}
             */
            resampling: "smooth" | "nearest";
            /**
             * @default {
             *       "mode": "none",
             *       "texels": 16,
             *       "above": 0,
             *       "mask": "opacity"
             *     }
             */
            padding: components["schemas"]["Padding"];
            /**
             * Dielectric F0
             * @default 0.04
             */
            dielectric_f0: number;
            /**
             * Height Mid
             * @default 0.5
             */
            height_mid: number;
            /**
             * Height Unit
             * @default share
             * @enum {string}
             */
            height_unit: "share" | "metres";
            /**
             * @default {
             *       "case": "as_written",
             *       "separator": "as_written"
             *     }
             */
            names: components["schemas"]["NameStyle"];
            /** Files */
            files: components["schemas"]["FileSpec"][];
            /**
             * Documents
             * @default []
             */
            documents: components["schemas"]["DocumentSpec"][];
            /** Own */
            own: boolean;
            /** Edition */
            edition: number;
        };
        /**
         * TargetUpdate
         * @description New definition of a custom target; `edition` is the version it is based on.
         */
        TargetUpdate: {
            /** Edition */
            edition: number;
            preset: components["schemas"]["TargetPreset"];
        };
        /**
         * TexelsRead
         * @description Header of the texel values of a channel.
         *
         *     width, height : of the whole channel; left, upper, columns, rows : of the excerpt
         *     top : largest code if the values are codes, else null: values in [0, 1]
         *     planes : the states whose values follow, each `rows` x `columns` float32, little endian
         */
        TexelsRead: {
            /** Width */
            width: number;
            /** Height */
            height: number;
            /** Left */
            left: number;
            /** Upper */
            upper: number;
            /** Columns */
            columns: number;
            /** Rows */
            rows: number;
            /** Top */
            top: number | null;
            /** Planes */
            planes: string[];
        };
        /**
         * TexturedModelRead
         * @description A model of the project for which a delivery has textures of one of its targets.
         */
        TexturedModelRead: {
            /** Model Id */
            model_id: number;
            /**
             * Name
             * @description of the file with embedded textures
             */
            name: string;
            /** Model */
            model: string;
            /** Target Id */
            target_id: string;
            /**
             * Ending
             * @enum {string}
             */
            ending: "glb" | "usdz";
            /** Sets */
            sets: number;
            /**
             * Missing
             * @description materials without a set in the delivery
             */
            missing: string[];
            /** Address */
            address: string;
        };
        /**
         * Threshold
         * @description 1 from a value on, 0 below.
         */
        Threshold: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "threshold";
            /** At */
            at: number;
        };
        /**
         * TilingRead
         * @description Tiling directions of a picture, the visibility of each seam (1 is invisible), and a
         *     description.
         */
        TilingRead: {
            /** Wrap */
            wrap: boolean | ("across" | "down");
            /** Across */
            across: number;
            /** Down */
            down: number;
            /** Text */
            text: string;
        };
        /**
         * Times
         * @description Factor of a slot's map, in linear light: 1 - weight + weight x map.
         *
         *     Without that map nothing is changed.
         */
        Times: {
            map: components["schemas"]["MapKind"];
            /**
             * Weight
             * @default 1
             */
            weight: number;
        };
        /**
         * TintSpec
         * @description Relative red, green and blue of the light; their mean is 1.
         */
        TintSpec: {
            /**
             * Red
             * @default 1
             */
            red: number;
            /**
             * Green
             * @default 1
             */
            green: number;
            /**
             * Blue
             * @default 1
             */
            blue: number;
        };
        /**
         * TrayRead
         * @description The sets of a project by name; undo and redo are the titles of the next steps.
         */
        TrayRead: {
            /** Rows */
            rows: components["schemas"]["TrayRowRead"][];
            /** Undo */
            undo: string | null;
            /** Redo */
            redo: string | null;
            /** Trash Count */
            trash_count: number;
        };
        /**
         * TrayRowRead
         * @description One set in the list; `/api/v1/projects/{project}/sets` returns all details.
         */
        TrayRowRead: {
            /** Id */
            id: number;
            /** Version */
            version: number;
            /** Name */
            name: string;
            /** Tags */
            tags: string[];
            /** Notes */
            notes: string;
            /** Maps */
            maps: {
                [key: string]: "imported" | "derived" | "constant";
            };
            /**
             * Card
             * @description the source card of its import
             */
            card: string | null;
            /**
             * Updated At
             * Format: date-time
             */
            updated_at: string;
            /** Deleted At */
            deleted_at: string | null;
            /**
             * Delivered
             * @description delivery state by target
             */
            delivered: {
                [key: string]: "delivered" | "stale";
            };
            /**
             * Checked
             * @description current value
             */
            checked: boolean;
            /**
             * Findings
             * @description open checklist findings, most severe first
             */
            findings: components["schemas"]["OpenFindingRead"][];
        };
        /**
         * TriedFileRead
         * @description A file that would be written: its name, size, memory and pictures (data URLs, PNG).
         */
        TriedFileRead: {
            /** Suffix */
            suffix: string;
            /** Name */
            name: string;
            /** Width */
            width: number;
            /** Height */
            height: number;
            memory: components["schemas"]["MemoryRead"];
            /** Picture */
            picture: string;
            /** Alpha */
            alpha: string | null;
            /**
             * Channels
             * @description description by channel letter
             */
            channels: {
                [key: string]: string;
            };
        };
        /**
         * Undelete
         * @description Restores deleted sets under a free name.
         */
        Undelete: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "undelete";
        };
        /**
         * UnreadableRead
         * @description A set that can't be read.
         */
        UnreadableRead: {
            /** Id */
            id: number;
            /** Why */
            why: string;
        };
        /**
         * UseCard
         * @description Sets the source card of sets: name, license and URL.
         */
        UseCard: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "card";
            /** Name */
            name: string;
        };
        /**
         * UseRecipe
         * @description Applies a recipe to sets.
         */
        UseRecipe: {
            /**
             * @description discriminator enum property added by openapi-typescript
             * @enum {string}
             */
            do: "recipe";
            /** Recipe Id */
            recipe_id: number;
        };
        /**
         * UvFactRead
         * @description A property or problem of UVs with its measurement; `shown`: a picture is available.
         */
        UvFactRead: {
            /**
             * Rule
             * @enum {string}
             */
            rule: "missing" | "overlaps" | "outside" | "mirrored" | "gaps" | "uneven_density" | "degenerate" | "hard_edges";
            /**
             * Weight
             * @enum {string}
             */
            weight: "info" | "warning" | "error";
            /** Text */
            text: string;
            /** Evidence */
            evidence: string;
        };
        /**
         * UvRead
         * @description The UVs of a material; `count` islands, of which the largest are listed.
         */
        UvRead: {
            /** Side */
            side: number;
            /** Facts */
            facts: components["schemas"]["UvFactRead"][];
            /** Islands */
            islands: components["schemas"]["IslandRead"][];
            /** Count */
            count: number;
            /** Middle */
            middle: number;
        };
        /**
         * VocabularyRead
         * @description All declarations; constant while the server runs.
         */
        VocabularyRead: {
            /**
             * Formats
             * @description formats for writing
             */
            formats: components["schemas"]["FormatRead"][];
            /**
             * Endings
             * @description file name extensions of readable files, with the dot
             */
            endings: string[];
            /** Kinds */
            kinds: components["schemas"]["KindRead"][];
            /** Operations */
            operations: components["schemas"]["OperationRead"][];
            /**
             * Reliefs
             * @description relief presets: mean slope in degrees by name
             */
            reliefs: {
                [key: string]: number;
            };
        };
        /**
         * WatchedFolderCreate
         * @description A folder to import; `watching` also imports later changes.
         */
        WatchedFolderCreate: {
            /** Path */
            path: string;
            /**
             * Watching
             * @default true
             */
            watching: boolean;
        };
        /**
         * WatchedFolderRead
         * @description A folder on the server.
         *
         *     `read_at` is null before it was first read; `problem` is the reason if it can't be read.
         */
        WatchedFolderRead: {
            /** Id */
            id: number;
            /** Path */
            path: string;
            /**
             * Watching
             * @description the folder is watched for changes
             */
            watching: boolean;
            /** Read At */
            read_at: string | null;
            /** Problem */
            problem: string | null;
            /** Files */
            files: number;
            /**
             * Deleted
             * @description files that were imported and are now deleted
             */
            deleted: number;
            /**
             * Refused
             * @description files that couldn't be read, with the reason
             */
            refused: string[];
        };
        /**
         * WebhookCallRead
         * @description A call. `state` is the current state of its message.
         */
        WebhookCallRead: {
            /** Id */
            id: number;
            /** Message Id */
            message_id: number;
            /** Event */
            event: string;
            /** Delivery Id */
            delivery_id: number | null;
            /**
             * Key
             * Format: uuid
             * @description Idempotency-Key header of the message
             */
            key: string;
            /**
             * Called At
             * Format: date-time
             */
            called_at: string;
            /** Seconds */
            seconds: number;
            /**
             * Status
             * @description HTTP status; null: no response
             */
            status: number | null;
            /** Error */
            error: string | null;
            /**
             * Excerpt
             * @description first 2,000 bytes of the response
             */
            excerpt: string;
            /**
             * State
             * @enum {string}
             */
            state: "waiting" | "sent" | "failed";
        };
        /**
         * WebhookChange
         * @description Pause a webhook, or resume it and send waiting messages.
         */
        WebhookChange: {
            /** Paused */
            paused: boolean;
        };
        /**
         * WebhookCreate
         * @description A URL that receives a signed message when a delivery ends.
         */
        WebhookCreate: {
            /** Url */
            url: string;
            /**
             * Secret
             * @description default: generated
             */
            secret?: string | null;
        };
        /**
         * WebhookRead
         * @description A webhook; its secret is only returned when it is created.
         */
        WebhookRead: {
            /** Id */
            id: number;
            /** Url */
            url: string;
            /**
             * Created At
             * Format: date-time
             */
            created_at: string;
            /** Last Called At */
            last_called_at: string | null;
            /**
             * Last Error
             * @description null: the last call succeeded
             */
            last_error: string | null;
            /**
             * Failing Since
             * @description start of the current series of failures
             */
            failing_since: string | null;
            /**
             * Paused At
             * @description paused by the user, or after a day of failures
             */
            paused_at: string | null;
            /**
             * Waiting
             * @description messages waiting to be sent
             */
            waiting: number;
        };
    };
    responses: {
        /** @description Not Found */
        NotFound: {
            headers: {
                [name: string]: unknown;
            };
            content: {
                "application/problem+json": components["schemas"]["Problem"];
            };
        };
        /** @description Method Not Allowed */
        MethodNotAllowed: {
            headers: {
                [name: string]: unknown;
            };
            content: {
                "application/problem+json": components["schemas"]["Problem"];
            };
        };
        /** @description Conflict */
        Conflict: {
            headers: {
                [name: string]: unknown;
            };
            content: {
                "application/problem+json": components["schemas"]["Problem"];
            };
        };
        /** @description Unprocessable Entity */
        Invalid: {
            headers: {
                [name: string]: unknown;
            };
            content: {
                "application/problem+json": components["schemas"]["Problem"];
            };
        };
        /** @description Any other error */
        Problem: {
            headers: {
                [name: string]: unknown;
            };
            content: {
                "application/problem+json": components["schemas"]["Problem"];
            };
        };
    };
    parameters: never;
    requestBodies: never;
    headers: never;
    pathItems: never;
}
export type $defs = Record<string, never>;
export interface operations {
    get_health: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["HealthRead"];
                };
            };
            default: components["responses"]["Problem"];
        };
    };
    list_projects: {
        parameters: {
            query?: {
                deleted?: boolean;
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ProjectRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    add_project: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["ProjectCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ProjectRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    change_project: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["ProjectChange"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ProjectRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    export_project: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/zip": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_disk_use: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DiskUseRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    empty_trash: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DiskUseRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    import_project: {
        parameters: {
            query: {
                name: string;
            };
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/octet-stream": string;
            };
        };
        responses: {
            /** @description Successful Response */
            202: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["JobRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_sets: {
        parameters: {
            query?: {
                ids?: number[] | null;
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["SetRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_unreadable_sets: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["UnreadableRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    import_file: {
        parameters: {
            query: {
                name: string;
                kind?: components["schemas"]["MapKind"] | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/octet-stream": string;
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ImportedSourceRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    import_map: {
        parameters: {
            query: {
                name: string;
            };
            header?: never;
            path: {
                kind: components["schemas"]["MapKind"];
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/octet-stream": string;
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ImportedMapRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_tray: {
        parameters: {
            query?: {
                deleted?: boolean;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["TrayRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    change_sets: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["ChangeRequest"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ChangedRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    blend_sets: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["BlendCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["BlendedRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    undo_change: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ChangedRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    redo_change: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ChangedRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    preview_change: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["ChangePreviewRequest"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/png": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_set_picture: {
        parameters: {
            query?: {
                key?: string;
            };
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/png": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_checklists: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["ChecklistsQuery"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ChecklistRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    set_ignored: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["IgnoreFinding"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ChecklistRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    set_dismissed: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["DismissWarning"];
            };
        };
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_source: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                sha256: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["SourceFactsRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_source_thumbnail: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                sha256: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/png": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_original: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                sha256: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/octet-stream": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_set: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["SetRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    change_set: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["SetUpdate"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["SetRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    undo_set: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["SetStep"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["SetRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    redo_set: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["SetStep"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["SetRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_map_thumbnail: {
        parameters: {
            query?: {
                key?: string;
            };
            header?: never;
            path: {
                set_id: number;
                kind: components["schemas"]["MapKind"];
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/png": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    create_preview: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["PreviewCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/octet-stream": unknown;
                    "application/json": components["schemas"]["PreviewRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_preview_progress: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                window: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ProgressRead"] | null;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    stop_preview: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                window: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    measure_seams: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["SeamsMeasure"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["SeamMethodsRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_interpretations: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["InterpretationsQuery"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["InterpretationRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    measure_key_uncertainty: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["KeyUncertaintyQuery"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["KeyUncertaintyRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    measure_removed_lighting: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["RemovedLightingQuery"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["RemovedLightingRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_intake: {
        parameters: {
            query?: {
                accepted?: boolean;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["IntakeRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    add_arrival: {
        parameters: {
            query: {
                name: string;
                batch?: string;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/octet-stream": string;
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["AddedRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    change_arrivals: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["ArrivalChange"];
            };
        };
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    accept_arrivals: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["ArrivalChoice"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["AcceptedRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    dismiss_arrivals: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["ArrivalChoice"];
            };
        };
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    restore_arrivals: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["ArrivalChoice"];
            };
        };
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    apply_source_card: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["CardChoice"];
            };
        };
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    accept_capture_group: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                surface_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["SurfaceAccept"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["AcceptedRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    decline_capture_group: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                surface_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_arrival_lit: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                arrival_id: number;
                y: components["schemas"]["NormalY"];
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/png": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_arrival_channel: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                arrival_id: number;
                channel: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/png": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_source_cards: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["SourceCard"][];
                };
            };
            404: components["responses"]["NotFound"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    create_source_card: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["CardCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["SourceCard"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    delete_source_card: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                name: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_recipes: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["RecipeRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    save_recipe: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["RecipeCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["RecipeRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    import_recipe: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["RecipeImport"];
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["RecipeImported"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    export_recipe: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                recipe_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    delete_recipe: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                recipe_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    apply_recipe: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                recipe_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["SetChoice"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["AppliedRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    copy_settings: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["SetChoice"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["AppliedRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_targets: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["TargetRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    add_target: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["TargetPreset"];
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["TargetRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    change_target: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                target_id: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["TargetUpdate"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["TargetRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    delete_target: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                target_id: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    preview_target: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["TargetPreviewCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["TargetPreviewRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    render_target: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["TargetPreviewCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["LitProofRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_vocabulary: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["VocabularyRead"];
                };
            };
            default: components["responses"]["Problem"];
        };
    };
    preview_files: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["DeliveryCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DryRunPartRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    preview_delivery: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["DeliveryCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DeliveryPreviewRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_board: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["BoardCellRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_disk_states: {
        parameters: {
            query: {
                ids: number[];
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DiskStateRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_stale_files: {
        parameters: {
            query: {
                ids: number[];
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["StaleFilesRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_deliveries: {
        parameters: {
            query?: {
                before?: number | null;
                limit?: number;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DeliveryRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    create_delivery: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["DeliveryCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            202: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["CreatedDeliveryRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_delivery: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DeliveryRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_delivery_part: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
                n: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DeliveredPartRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    repeat_delivery: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            202: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DeliveryRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    compare_deliveries: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
                other_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ComparedPartRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    compare_delivery_channel: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
                n: number;
                other_id: number;
                other_n: number;
                name: string;
                letter: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ComparedChannelRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_part_picture: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
                n: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/png": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    cancel_delivery: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DeliveryRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    retry_delivery: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            202: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DeliveryRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_delivery_zip: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/zip": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_contact_sheet: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "text/html": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_contact_sheet_picture: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/png": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_file_picture: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
                n: number;
                name: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/png": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_file_channel: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
                n: number;
                name: string;
                letter: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ChannelViewRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_channel_texels: {
        parameters: {
            query?: {
                left?: number;
                upper?: number;
                columns?: number;
                rows?: number;
            };
            header?: never;
            path: {
                delivery_id: number;
                n: number;
                name: string;
                letter: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/octet-stream": unknown;
                    "application/json": components["schemas"]["TexelsRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_compared_texels: {
        parameters: {
            query?: {
                left?: number;
                upper?: number;
                columns?: number;
                rows?: number;
            };
            header?: never;
            path: {
                delivery_id: number;
                n: number;
                other_id: number;
                other_n: number;
                name: string;
                letter: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/octet-stream": unknown;
                    "application/json": components["schemas"]["TexelsRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_folders: {
        parameters: {
            query?: {
                path?: string | null;
            };
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["FolderRead"];
                };
            };
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    create_folder: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["FolderCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["FolderRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_roots: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": string[];
                };
            };
            default: components["responses"]["Problem"];
        };
    };
    list_copy_destinations: {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": string[];
                };
            };
            default: components["responses"]["Problem"];
        };
    };
    list_destinations: {
        parameters: {
            query?: {
                example?: string;
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DestinationRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    set_destination: {
        parameters: {
            query?: {
                example?: string;
            };
            header?: never;
            path: {
                project: string;
                target_id: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["DestinationWrite"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DestinationRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    reset_destination: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
                target_id: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["DestinationRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_auto_deliver_rules: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["AutoDeliverRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    set_auto_deliver: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["AutoDeliverWrite"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["AutoDeliverRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_watched_folders: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["WatchedFolderRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    watch_folder: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["WatchedFolderCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["WatchedFolderRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    unwatch_folder: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
                folder_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_webhooks: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["WebhookRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    add_webhook: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["WebhookCreate"];
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["NewWebhookRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    remove_webhook: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                webhook_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    change_webhook: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                webhook_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["WebhookChange"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["WebhookRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    test_webhook: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                webhook_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["WebhookRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_webhook_calls: {
        parameters: {
            query?: {
                before?: number | null;
            };
            header?: never;
            path: {
                webhook_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["WebhookCallRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    send_webhook_message: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                webhook_id: number;
                message_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            202: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_models: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["ModelRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    add_model: {
        parameters: {
            query: {
                name: string;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/octet-stream": string;
            };
        };
        responses: {
            /** @description Successful Response */
            202: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["JobRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    delete_model: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                model_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_model_original: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                model_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/octet-stream": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    mesh: {
        parameters: {
            query?: {
                uv_set?: number;
            };
            header?: never;
            path: {
                model_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/octet-stream": unknown;
                    "application/json": components["schemas"]["MeshRead"];
                };
            };
            /** @description A worker prepares the model. Request it again when the job is done */
            202: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["JobRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_uv: {
        parameters: {
            query?: {
                material?: string | null;
                uv_set?: number;
            };
            header?: never;
            path: {
                model_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["UvRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_uv_picture: {
        parameters: {
            query: {
                shows: "density" | "overlaps" | "outside" | "mirrored" | "gaps" | "uneven_density" | "degenerate" | "hard_edges";
                material?: string | null;
                uv_set?: number;
                side?: number;
                tile?: number[];
            };
            header?: never;
            path: {
                model_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/png": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    create_sets: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                model_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["CreateSets"];
            };
        };
        responses: {
            /** @description Successful Response */
            201: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["CreatedSetsRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_textured_models: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                delivery_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["TexturedModelRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_textured_model: {
        parameters: {
            query?: {
                tangents?: boolean;
            };
            header?: never;
            path: {
                delivery_id: number;
                model_id: number;
                target_id: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "model/gltf-binary": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_textured_stage: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                delivery_id: number;
                model_id: number;
                target_id: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "model/vnd.usdz+zip": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    measure_ray_misses: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["RayMissesQuery"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["RayMissesRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    link_model: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["ModelLinkWrite"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["SetRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    estimate_lights: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["LightsQuery"];
            };
        };
        responses: {
            /** @description Successful Response */
            202: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["JobRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    measure_gray_card: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["GrayCardQuery"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["CapturesSpec"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    compare_capture: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                set_id: number;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/json": components["schemas"]["CaptureComparisonQuery"];
            };
        };
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["CaptureComparisonRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_environments: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["EnvironmentRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    add_environment: {
        parameters: {
            query: {
                name: string;
                /** @description a 360° panorama, twice as wide as high, or a photo cropped to a mirror ball */
                kind?: "panorama" | "mirror_ball";
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody: {
            content: {
                "application/octet-stream": string;
            };
        };
        responses: {
            /** @description Successful Response */
            202: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["JobRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_environment_light: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                environment_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "image/vnd.radiance": unknown;
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    delete_environment: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                environment_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    list_jobs: {
        parameters: {
            query?: {
                after?: string | null;
                limit?: number | null;
            };
            header?: never;
            path: {
                project: string;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["JobRead"][];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    get_job: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                job_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["JobRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    dismiss_job: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                job_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            204: {
                headers: {
                    [name: string]: unknown;
                };
                content?: never;
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    cancel_job: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                job_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["JobRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
    retry_job: {
        parameters: {
            query?: never;
            header?: never;
            path: {
                job_id: number;
            };
            cookie?: never;
        };
        requestBody?: never;
        responses: {
            /** @description Successful Response */
            200: {
                headers: {
                    [name: string]: unknown;
                };
                content: {
                    "application/json": components["schemas"]["JobRead"];
                };
            };
            404: components["responses"]["NotFound"];
            409: components["responses"]["Conflict"];
            422: components["responses"]["Invalid"];
            default: components["responses"]["Problem"];
        };
    };
}
