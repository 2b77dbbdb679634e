# The engine of the desk: what the plan's steps gave, as far as it is kept. Quick steps are worked out at once, all others in a process
# behind, which keeps each result where `scalewort run` keeps them; so the same plan gives the same results there.

# The state: a plan on disk (`path`), as read (`raw`, with its decisions); the rest can be had from it again.
new_desk <- function(path) {
  desk <- new.env(parent = emptyenv())
  desk$path <- normalizePath(path)
  desk$plan_hash <- file_hash(path)
  desk$raw <- read_plan(path, decided = FALSE)
  desk$memory <- new.env(parent = emptyenv())
  desk$last <- list()
  desk$job <- NULL
  check_plan(decided_plan(desk$raw), desk$path)
  desk
}

# What all steps rest on, for a plan: list(survey, options, common, store). The answers are read once, and again when a file changes.
desk_ready <- function(desk, plan = decided_plan(desk$raw)) {
  beside <- beside_plan(desk$path)
  hashes <- plan_hashes(plan, beside, remembered_hash, function(...) desk_fingerprint(desk, ...))
  key <- hash_of(list(without_marks(hashes, plan, beside), plan[reading_keys]))
  if (!identical(desk$read_key, key)) {
    if (!is.null(desk$read)) close_table(desk$read)
    desk$read <- read_planned(plan, beside)
    desk$read_key <- key
  }
  survey_key <- answers_key(hashes, plan, beside)
  if (!identical(desk$survey_key, survey_key)) {
    desk$survey <- decided_survey(desk$read, plan)
    desk$survey_key <- survey_key
  }
  list(survey = desk$survey, options = step_options(plan, beside), common = plan_common(plan),
    store = desk_store(result_store(desk$path, survey_key), desk$memory))
}

# The fingerprint of a table is a look at all of it: taken again when work begins, and else no more often than takes a twentieth of the time.
# Every question asked of the table meanwhile finds out by itself whether it has changed.
desk_fingerprint <- function(desk, plan, beside) {
  now <- proc.time()[["elapsed"]]
  known <- desk$fingerprint
  if (is.null(known) || !identical(known$data, plan$data) || now >= known$until) {
    value <- plan_fingerprint(plan, beside)
    then <- proc.time()[["elapsed"]]
    desk$fingerprint <- list(data = plan$data, value = value, until = then + max(5, 20 * (then - now)))
  }
  desk$fingerprint$value
}

# Kept results, those of this session in memory; a step that failed is kept beside, where a run does not look.
desk_store <- function(disk, memory) {
  list(
    key = disk$key, folder = disk$folder,
    get = function(name, key) {
      place <- paste(name, key)
      if (is.null(memory[[place]])) {
        found <- disk$get(name, key)
        if (is.null(found)) found <- disk$get(paste0(name, "-failed"), key)
        if (!is.null(found)) assign(place, found, memory)
      }
      memory[[place]]
    },
    put = function(name, key, result) {
      assign(paste(name, key), list(key = key, result = result), memory)
      if (!name %in% light_steps) disk$put(if (inherits(result, "failed_step")) paste0(name, "-failed") else name, key, result)
    }
  )
}

# Steps that only hand on what they are given: worked out wherever they are needed, and kept in memory only.
light_steps <- c("split", "structure", "subscales")

# Steps that are worked out at once: what the questionnaire shows.
quick_steps <- c("screening", "keying")

# list(have, pending, keys): what is kept for the plan as it stands; quick steps are worked out.
desk_results <- function(desk, plan = decided_plan(desk$raw)) {
  ready <- desk_ready(desk, plan)
  run <- function(...) run_steps(list(answers = ready$survey), ready$options, ready$common, store = ready$store, failed = failed_step, ...)
  run(only = quick_steps)
  # A survey whose answers are behind a connection is not kept on disk.
  found <- run(compute = c(light_steps, if (inherits(ready$survey$source, "table_source")) "survey"))
  results <- found$have
  for (name in names(results)) desk$last[[name]] <- results[[name]]
  list(have = results, pending = found$pending, left_out = left_out_said(found$results))
}

# One step of a plan that is only looked at, such as another number of factors.
desk_alternative <- function(desk, plan, step) {
  ready <- desk_ready(desk, plan)
  found <- run_steps(list(answers = ready$survey), ready$options, ready$common, store = ready$store, only = step, failed = failed_step)
  list(result = found$have[[step]], why = left_out_said(found$results)[[step]])
}

# A step that ended in an error: its message stands in the step's place.
failed_step <- function(e) not_possible(said_of_error(e, "step_failed"), "failed_step")

# The work of the process behind: every step, each said on a line as it begins.
desk_work <- function(path) {
  plan <- read_plan(path)
  reading_in(plan$language, work_through(path, plan))
}

work_through <- function(path, plan) {
  beside <- beside_plan(path)
  hashes <- plan_hashes(plan, beside)
  survey <- planned_survey(plan, beside)
  on.exit(close_table(survey))
  store <- desk_store(result_store(path, answers_key(hashes, plan, beside)), new.env(parent = emptyenv()))
  said <- function(step) {
    cat(step, "\n", sep = "")
    flush(stdout())
  }
  run_steps(list(answers = survey), step_options(plan, beside), plan_common(plan), said, store, failed = failed_step)
  tell_decisions(path, store$folder, said)
  invisible(NULL)
}

# Begins the work behind anew: the steps, or everything the plan says with its files. What ran before is stopped, its finished steps stay.
start_work <- function(desk, write = FALSE) {
  stop_work(desk)
  desk$doing <- ""
  desk$trouble <- NULL
  desk$writes <- write
  desk$fingerprint <- NULL
  desk$job <- callr::r_bg(function(path, write) {
    ours <- function(name) utils::getFromNamespace(name, "scalewort")
    if (write) ours("run_plan")(path)$paths else ours("desk_work")(path)
  }, list(path = desk$path, write = write), stdout = "|", stderr = NULL, package = FALSE, supervise = TRUE)
}

stop_work <- function(desk) {
  if (!is.null(desk$job) && desk$job$is_alive()) desk$job$kill()
  desk$job <- NULL
}

# "running", "done" or "failed"; what is being done is in desk$doing.
work_state <- function(desk) {
  job <- desk$job
  if (is.null(job)) {
    return("done")
  }
  lines <- job$read_output_lines()
  if (length(lines) > 0) desk$doing <- lines[length(lines)]
  if (job$is_alive()) {
    return("running")
  }
  desk$job <- NULL
  tryCatch({
    made <- job$get_result()
    if (desk$writes) desk$written <- made
    "done"
  }, error = function(e) {
    cause <- if (is.null(e$parent)) e else e$parent
    desk$trouble <- cli::ansi_strip(paste(c(conditionMessage(cause), cause$faults), collapse = " "))
    "failed"
  })
}

file_hash <- function(path) unname(tools::md5sum(path))

# Where the plan's file was changed elsewhere since it was read or written here, it is read again: TRUE then.
reread_plan <- function(desk) {
  now <- file_hash(desk$path)
  if (identical(now, desk$plan_hash)) {
    return(FALSE)
  }
  raw <- read_plan(desk$path, decided = FALSE)
  check_plan(decided_plan(raw), desk$path)
  desk$raw <- raw
  desk$plan_hash <- now
  TRUE
}

# A decision, or a step back or forth: checked, written beside the data, and then the state. list(refused: why not; reread: was the plan changed
# elsewhere, and read again before; copy: where the file as it was is kept, had it to be written whole). back: a step back or forth, or a place in
# the record, means nothing in a plan that somebody else changed.
change_plan <- function(desk, change, back = FALSE) {
  out <- list(refused = NULL, reread = FALSE, copy = NULL)
  out$refused <- tryCatch({
    out$reread <- reread_plan(desk)
    if (!(out$reread && back)) {
      raw <- change(desk$raw)
      plan <- decided_plan(raw)
      stop_for_plan(schema_faults(plan, plan_schema_read()), character(), desk$path)
      desk_ready(desk, plan)
      out$copy <- write_decisions(desk$path, raw)
      desk$plan_hash <- file_hash(desk$path)
      desk$raw <- raw
    }
    NULL
  }, scalewort_error = function(e) {
    cli::ansi_strip(paste(c(conditionMessage(e), e$faults), collapse = " "))
  })
  out
}
