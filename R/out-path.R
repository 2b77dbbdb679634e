# Runs the steps of the path: all of them, or what a plan asks for, from what was kept where
# nothing changed.

# Results of every step, a named list; `survey` is the survey as scored, with its log. Its attribute
# `left_out` names the steps that these data do not allow, each with the reason.
whole_path <- function(survey, seed = 1, limits = sw_limits(), progress = function(step) NULL) {
  run_steps(list(answers = survey), list(), list(seed = seed, limits = limits), progress)$results
}

# have: results to begin with; options: by step, FALSE to leave one out; store: list(get, put) of
# kept results by key, with `key` that of the answers; only: these steps and what they need; compute: FALSE for what is kept and no more,
# or the steps that may be worked out besides;
# failed: a function of a step's error, whose value is taken as why the step is left out.
# list(results, record: step, seconds, kept; pending: steps that wait for one that is not kept).
run_steps <- function(have, options, common, progress = function(step) NULL, store = NULL, only = NULL, compute = TRUE,
                      failed = NULL) {
  keys <- list(answers = store$key)
  record <- list()
  left_said <- list()
  pending <- character()
  steps <- path_steps()
  wanted <- if (is.null(only)) names(steps) else with_needs(only, steps)
  for (name in intersect(names(steps), wanted)) {
    step <- steps[[name]]
    asked <- asked_for(options[[name]])
    if (is_off(name, options[[name]], asked)) next
    own <- if (is.list(options[[name]])) options[[name]] else list()
    waits <- any(step$needs %in% pending)
    if (!waits && is_lacking(name, step, have, asked, failed)) next
    keys[[name]] <- hash_of(list(name, own, asked, common, keys[step$needs], kept_version()))
    if (waits || (!may_compute(name, compute) && is.null(store$get(name, keys[[name]])))) {
      pending <- c(pending, name)
      next
    }
    if (!is.null(step$words)) progress(worded("a_term", term = step$words))
    done <- kept_or_run(store, name, keys[[name]], function() careful_step(step, have, own, common, asked, failed))
    why <- if (inherits(done$result, "not_possible")) as.character(done$result)
    if (!is.null(why)) {
      left_said[[name]] <- attr(done$result, "said")
      progress(worded("step_left_out", step = name, why = left_said[[name]]))
    }
    record[[name]] <- c(list(step = name, seconds = done$seconds, kept = done$kept), if (!is.null(why)) list(left_out = why))
    if (is.null(why)) have[[name]] <- done$result
  }
  left_out <- unlist(lapply(record, `[[`, "left_out"))
  if (!is.null(have$subscales)) have$survey <- have$subscales
  results <- structure(have[setdiff(names(have), c("answers", "split", "structure", "subscales"))], left_out = left_out,
    left_said = if (length(left_said) > 0) left_said)
  list(results = results, record = unname(record), keys = keys, pending = pending, have = have)
}

# failed: what becomes of an error of a step, by default the error.
careful_step <- function(step, have, own, common, asked, failed) {
  work <- function() run_step(step, have, own, common, asked)
  if (is.null(failed)) work() else tryCatch(work(), error = failed)
}

is_off <- function(name, option, asked) isFALSE(option) || (name == "composites" && !asked)

may_compute <- function(name, compute) isTRUE(compute) || name %in% compute

# Does a step lack what it needs? Where it was asked for, that is an error, unless errors are taken as reasons.
is_lacking <- function(name, step, have, asked, failed) {
  lacking <- lacks(step$needs, have, name)
  if (length(lacking) > 0 && asked && is.null(failed)) stop_input(message_of("e_step_asked_needs", name = name, lacking = lacking))
  length(lacking) > 0
}

# Steps with all that they need, directly or not.
with_needs <- function(names, steps) {
  repeat {
    all <- union(names, intersect(unlist(lapply(steps[names], `[[`, "needs")), names(steps)))
    if (length(all) == length(names)) {
      return(names)
    }
    names <- all
  }
}

# list(result, seconds, kept): what the store has under the key, or a fresh result, which it then has.
kept_or_run <- function(store, name, key, work) {
  started <- proc.time()[["elapsed"]]
  found <- if (!is.null(store)) store$get(name, key)
  result <- if (is.null(found)) work() else found$result
  if (is.null(found) && !is.null(store)) store$put(name, key, result)
  list(result = result, seconds = round(proc.time()[["elapsed"]] - started, 2), kept = !is.null(found))
}

asked_for <- function(option) isTRUE(option) || (is.list(option) && length(option) > 0)

# The step's result; where it may be left out and these data do not allow it (one group only, say), why.
run_step <- function(step, have, own, common, asked) {
  if (asked) {
    result <- step$run(have, own, c(common, asked = TRUE))
    return(if (is.null(result) && step$if_possible) not_possible(message_of("asked_for_nothing")) else result)
  }
  why <- function(e) not_possible(said_of_error(e, "step_not_possible"))
  # What a table of a database keeps to itself is like data that do not allow a step; any other trouble with it is an error.
  kept_back <- function(e) if (e$reason %in% c("withheld", "memory")) why(e) else stop(e)
  may_fail <- function(e) if (step$if_possible) why(e) else stop(e)
  tryCatch(step$run(have, own, common), scalewort_error_input = may_fail, scalewort_error_numeric = may_fail, scalewort_error_structure = may_fail,
    scalewort_error_database = kept_back)
}

# In the place of a result: why there is none, in English, and as a message.
not_possible <- function(said, class = NULL) structure(say(said, "en"), said = said, class = c(class, "not_possible"))

# What a step needs and does not have. Only these may be absent: without a split all cases do for
# both halves.
lacks <- function(needs, have, name) {
  optional <- c("split", "retention", if (name == "structure") "exploration", if (name == "scores") "confirmation",
    if (name == "subscales") c("structure", "exploration"))
  setdiff(needs, c(optional, names(have)))
}

# What was kept by another version is not used.
kept_version <- function() c(as.character(utils::packageVersion("scalewort")), as.character(getRversion()))

# Why steps were left out, by step: messages, or words where there are no more.
left_out_said <- function(results) {
  words <- as.list(attr(results, "left_out"))
  said <- as.list(attr(results, "left_said"))
  utils::modifyList(words, said[intersect(names(said), names(words))])
}
