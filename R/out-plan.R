# A plan: a YAML file that says which data, which codebook, what is turned or set aside and why,
# which steps with which options, and where the results go.

#' Do everything a plan file says
#'
#' A plan is YAML: `data` (a path, a list of files that are bound, or a table in a database: `{driver: RSQLite, file: panel.db, table: answers}`,
#' `{driver: RPostgres, service: panel, table: answers}`; passwords belong in the database's own service file or in the environment) and
#' `codebook` (paths, relative to the plan), and if wanted `title`, `id`,
#' `group`, `wave`, `wide` (waves side by side), `flip` and `set_aside` (each with a `reason`), `careless`, the steps `screening`,
#' `keying`, `answering`, `option_curves`, `dif`, `reliability`, `split`, `factorability`, `retention`,
#' `exploration`, `stability`, `structure`, `confirmation`, `invariance`, `validity`, `composites`, `scores`
#' (options of their verbs; `false` leaves a step out),
#' `move` (items to another subscale), `kept` (items that are not turned although they look unreversed), `amend` (changes of the structure),
#' `decisions` (what was decided on seeing the results, at the desk, see [sw_open()]),
#' `limits`, `seed`, `output` (a folder), `reports` and `write` (forms of the report and of the scored
#' data). With `wave` the first wave is analysed; scores and comparisons of waves use all.
#' `scalewort start` writes one with every key explained. It is checked against the JSON
#' Schema that comes with the package (`system.file("schema/plan.json", package = "scalewort")`)
#' before anything runs. Each step's result is kept in the user's cache and used again when
#' nothing it depends on has changed; `manifest.json` says what was made from what. The same plan
#' gives the same tables.
#'
#' @param plan Path of the plan.
#' @param overwrite Replace files in the output folder that the last run did not make, or that were
#'   changed since? What the last run made is replaced without asking.
#' @param check Only check the plan, with all that can be known without computing: files, columns, items,
#'   limits?
#' @param seed A seed in place of the plan's.
#' @return The results of the path, a named list, invisibly; with `check` the plan as read.
#' @section Errors: `scalewort_error_file` for a plan that is not there or not YAML;
#'   `scalewort_error_input` lists all faults of the plan, each with its line; else those of
#'   the verbs.
#' @examples
#' folder <- tempfile("plan-")
#' dir.create(folder)
#' file.copy(system.file("extdata", c("plotholders.csv", "plotholders-codebook.csv"),
#'   package = "scalewort"), folder)
#' plan <- file.path(folder, "plan.yml")
#' writeLines(c("data: plotholders.csv", "codebook: plotholders-codebook.csv", "id: id",
#'   "exploration: false", "composites: false", "validity: false"), plan)
#' results <- sw_run(plan)
#' list.files(file.path(folder, "results"))
#' @export
sw_run <- function(plan, overwrite = FALSE, check = FALSE, seed = NULL) {
  check_string(plan, "plan")
  check_flag(check, "check")
  check_flag(overwrite, "overwrite")
  if (check) {
    checked <- check_plan(read_plan(plan), plan)
    check_answers(checked, plan)
    return(invisible(checked))
  }
  invisible(run_plan(plan, overwrite, seed = seed)$results)
}

# seed: in place of the plan's.
run_plan <- function(path, overwrite = FALSE, progress = function(step) NULL, seed = NULL) {
  plan <- read_plan(path)
  if (!is.null(seed)) plan$seed <- check_seed(seed)
  reading_in(plan$language, follow_plan(path, plan, overwrite, progress))
}

follow_plan <- function(path, plan, overwrite, progress) {
  beside <- beside_plan(path)
  folder <- beside(if (is.null(plan$output)) "results" else plan$output)
  check_folder(folder)
  check_plan(plan, path)
  own <- check_outputs(folder, plan, overwrite, c(path, vapply(input_files(plan), beside, "")))
  common <- plan_common(plan)
  progress(worded("reading_answers"))
  before <- plan_hashes(plan, beside)
  survey <- planned_survey(plan, beside)
  on.exit(close_table(survey))
  if (!identical(before, plan_hashes(plan, beside))) {
    stop_file(message_of("e_data_codebook_changed"), hint = message_of("e_run_plan_again"))
  }
  store <- result_store(path, answers_key(before, plan, beside))
  done <- run_steps(list(answers = survey), step_options(plan, beside), common, progress, store)
  progress(worded("writing_everything"))
  put <- replace_outputs(folder, own, function(side) write_results(done$results, side, plan, overwrite, path))
  left <- setdiff(own_outputs(folder)$changed, put$names)
  manifest <- write_manifest(folder, path, before, common$seed, done, put$names)
  wanted <- setdiff(c("reliability", "scores"), names(Filter(isFALSE, plan)))
  list(results = done$results, paths = c(put$paths, manifest), record = done$record, left = left, language = plan$language,
    lacking = intersect(wanted, names(attr(done$results, "left_out"))))
}

# What every step has: seed and limits.
plan_common <- function(plan) list(seed = if (is.null(plan$seed)) 1 else plan$seed, limits = plan_limits(plan))

# What the answers depend on: the files, how they are read, what is turned, moved or set aside.
answers_key <- function(hashes, plan, beside) {
  hash_of(list(without_marks(hashes, plan, beside), plan[c(reading_keys, "flip", "move", "set_aside")]))
}

# Which fields of a codebook were guessed changes no figure: a mark taken away makes nothing new.
without_marks <- function(hashes, plan, beside) {
  if (length(plan$codebook) != 1 || !grepl("[.]csv$", plan$codebook, ignore.case = TRUE)) {
    return(hashes)
  }
  table <- tryCatch(data.table::fread(beside(plan$codebook), colClasses = "character", data.table = FALSE), error = function(e) NULL)
  if ("guessed" %in% names(table)) hashes[[plan$codebook]] <- hash_of(as.list(table[setdiff(names(table), "guessed")]))
  hashes
}

reading_keys <- c("data", "codebook", "id", "group", "wave", "waves", "wide", "cluster", "weight", "missing_codes", "trust", "layout", "sheet")

# A path as the plan names it, from where the plan is.
beside_plan <- function(path) function(file) ifelse(grepl("^(/|~|[A-Za-z]:)", file), file, file.path(dirname(path), file))

check_folder <- function(folder) {
  if (file.exists(folder) && !dir.exists(folder)) stop_file(message_of("e_file_not_folder", folder = folder))
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  if (!dir.exists(folder)) stop_file(message_of("e_folder_cannot_made", folder = folder))
}

plan_limits <- function(plan) if (length(plan$limits) > 0) do.call(sw_limits, lapply(plan$limits, unlist)) else sw_limits()

input_hashes <- function(inputs, beside, hash = rlang::hash_file) stats::setNames(vapply(inputs, function(file) hash(beside(file)), ""), inputs)

planned_survey <- function(plan, beside) decided_survey(read_planned(plan, beside), plan)

decided_survey <- function(survey, plan) {
  for (step in plan$move) survey <- move_items(survey, unlist(step$items), step$to, step$reason)
  for (step in plan$flip) survey <- sw_flip(survey, unlist(step$items), reason = step$reason)
  for (step in plan$set_aside) survey <- sw_drop(survey, items = unlist(step$items), cases = unlist(step$cases), reason = step$reason)
  survey
}

# What the plan says of each step: FALSE, or a list of options.
step_options <- function(plan, beside) {
  out <- plan[intersect(configured_steps(), names(plan))]
  out <- Map(function(own, step) if (is.list(own)) plan_values(own, step_entries(step), beside) else own, out, names(out))
  out$survey <- Filter(Negate(is.null), list(repair = plan$repair_keying, careless = plan$careless,
    kept = unlist(lapply(plan$kept, `[[`, "items"))))
  from <- plan$structure
  # Files are read here, so that what is kept depends on what they say.
  if (is.character(from) && !from %in% c("codebook", "exploration")) from <- sw_structure(beside(from))
  out$structure <- Filter(Negate(is.null), list(from = from, cutoff = plan$cutoff, amend = plan$amend))
  if (is.list(out$scores) && identical(out$scores$as, "confirmed")) out$subscales <- list(as = "confirmed")
  # What serves a step that is left out goes with it, unless it is asked for.
  follow <- function(step, others) if (isFALSE(plan[[step]])) out[setdiff(others, names(out))] <<- FALSE
  follow("exploration", c("factorability", "retention", "stability"))
  follow("confirmation", c("validity", "composites"))
  out
}

# Options as the verbs take them; files are read here, so that what is kept depends on what they say.
plan_values <- function(values, entries, beside) {
  Map(function(value, entry) {
    switch(entry$kind,
      leads = , release = , cuts = if (is.null(names(value))) unlist(value) else lapply(value, unlist),
      norms = if (is.list(value)) lapply(value, unlist) else read_table(beside(value))$data,
      matrix = read_loadings(beside(value)),
      unlist(value)
    )
  }, values, entries[names(values)])
}

write_manifest <- function(folder, plan, inputs, seed, done, names) {
  content <- list(
    made = format(Sys.time(), "%Y-%m-%dT%H:%M:%SZ", tz = "UTC"),
    versions = list(scalewort = as.character(utils::packageVersion("scalewort")), R = as.character(getRversion()), platform = R.version$platform),
    plan = list(file = basename(plan), hash = rlang::hash_file(plan)), inputs = data.frame(file = names(inputs), hash = unname(inputs)),
    seed = seed, steps = done$record,
    outputs = lapply(names, function(name) list(file = name, hash = rlang::hash_file(file.path(folder, name))))
  )
  write_safely(file.path(folder, manifest_name), TRUE, function(draft) {
    writeLines(jsonlite::toJSON(content, auto_unbox = TRUE, pretty = TRUE), draft, useBytes = TRUE)
  })
}

# The plan, checked; all faults at once, each with its line. decided: as its decisions leave it.
read_plan <- function(path, decided = TRUE) {
  stop_for_key_twice(path)
  read <- read_yaml(path, "plan", handlers = list(seq = as.list))
  lines <- read$lines
  plan <- read$content
  if (!is.list(plan) || is.null(names(plan))) stop_input(message_of("e_plan_no_keys"))
  reading_in(if (!is.null(plan$language)) known_language(plan$language), checked_keys(plan, lines, path, decided))
}

# YAML would say so in its own words.
stop_for_key_twice <- function(path) {
  lines <- utf8_lines(path)
  keys <- ifelse(grepl("^[A-Za-z_]+:", lines), sub(":.*$", "", lines), NA)
  twice <- unique(keys[duplicated(keys) & !is.na(keys)])
  if (length(twice) == 0) {
    return(invisible())
  }
  stop_input(message_of("e_plan_cannot_followed", path = path), faults = do.call(rbind, lapply(twice, function(key) {
    at <- which(keys %in% key)
    fault_rows(worded("fault_key_twice", key = key, lines = as.character(at)), "plan", field = key, line = at[2])
  })), hint = message_of("e_nothing_been_run"))
}

checked_keys <- function(plan, lines, path, decided) {
  schema <- plan_schema_read()
  stop_for_plan(schema_faults(plan, schema), lines, path)
  if (!decided || is.null(plan$decisions)) {
    return(if (decided) decided_plan(plan) else plan)
  }
  plan <- decided_plan(plan)
  stop_for_plan(schema_faults(plan, schema), lines, path)
  plan
}

plan_schema_read <- function() {
  jsonlite::fromJSON(system.file("schema", "plan.json", package = "scalewort", mustWork = TRUE), simplifyVector = FALSE)
}

# faults: list(path: keys, text) each.
stop_for_plan <- function(faults, lines, path) {
  rows <- lapply(faults, function(f) {
    where <- f$path[!grepl("^[0-9]+$", f$path)]
    about <- if (length(where) > 0 && !isTRUE(f$unknown)) paste0(paste(where, collapse = ": "), ": ")
    fault_rows(paste0(about, f$text), "plan", field = paste(f$path, collapse = ": "), line = yaml_line(lines, f$path))
  })
  if (length(rows) == 0) {
    return(invisible())
  }
  rows <- do.call(rbind, rows)
  stop_input(message_of("e_plan_cannot_followed", path = path), faults = rows[order(rows$line, na.last = TRUE), ],
    hint = message_of("e_nothing_been_run"))
}
