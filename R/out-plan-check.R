# What a plan names, held against the files it names: everything that can be known before the
# computation.

# The plan, or one error with all faults, each with its line.
check_plan <- function(plan, path) reading_in(plan$language, check_names_of_plan(plan, path))

check_names_of_plan <- function(plan, path) {
  lines <- utf8_lines(path)
  beside <- beside_plan(path)
  data <- setdiff(input_files(plan), plan$codebook)
  files <- c(stats::setNames(as.list(data), rep("data", length(data))), codebook = plan$codebook)
  unready <- if (from_database(plan)) database_faults(plan)
  if (is.character(plan$structure) && !plan$structure %in% c("codebook", "exploration")) files$structure <- plan$structure
  gone <- which(!vapply(files, function(file) file.exists(beside(file)), TRUE))
  named <- plan_files(plan)
  faults <- c(
    lapply(gone, function(key) {
      near <- did_you_mean(basename(files[[key]]), list.files(dirname(beside(files[[key]]))))
      list(path = names(files)[key], text = worded("fault_no_file", file = files[[key]], near = near))
    }),
    lapply(Filter(function(one) !file.exists(beside(one$file)), named), function(one) {
      list(path = one$path, text = worded("fault_no_file", file = one$file, near = NULL))
    }),
    limit_faults(plan$limits), unready
  )
  if (length(gone) == 0 && length(unready) == 0) faults <- c(faults, name_faults(plan, beside))
  stop_for_plan(faults, lines, path)
  plan
}

# What only the answers tell, where the names are right: list(cases, items, notes). Whatever would end a run as it begins ends this, with the
# same sentence.
check_answers <- function(plan, path) {
  reading_in(plan$language, {
    survey <- planned_survey(plan, beside_plan(path))
    on.exit(close_table(survey))
    check_some_items(survey)
    items <- scored_items(survey)
    flat <- items[vapply(items, function(item) sum(source_tally(survey, item)$counts > 0) < 2, TRUE)]
    if (length(flat) > 0) stop_numeric(message_of("e_some_items_do"), faults = messages_of("e_every_case_used_gives", flat = flat),
      hint = message_of("e_set_them_aside"))
    list(cases = source_count(survey)$used, items = length(items), notes = c(small_group_notes(survey), list(planned_unlike(plan, path,
      survey))))
  })
}

# Where the plan names what is confirmed, and scores follow a codebook that says otherwise.
planned_unlike <- function(plan, path, survey) {
  own <- step_options(plan, beside_plan(path))
  named <- !is.null(own$structure$from) && !identical(own$structure$from, "exploration")
  agreed <- isFALSE(plan$confirmation) || isFALSE(plan$scores) || !is.null(own$subscales)
  if (!named || agreed || !declares_scales(survey)) {
    return(NULL)
  }
  unlike <- unlike_structure(survey_scales(survey), planned_structure(list(survey = survey), own$structure, plan_common(plan)))
  if (sum(lengths(unlike)) > 0) unlike_message(unlike, "scores_unlike_planned")
}

# Groups of one are compared with nobody.
small_group_notes <- function(survey) {
  unlist(lapply(survey$group, function(column) {
    groups <- source_distinct(survey, column)
    alone <- groups[[1]][!is.na(groups[[1]]) & groups$n < 2]
    if (length(alone) > 0) list(message_of("check_group_of_one", column = column, groups = as.character(alone)))
  }), recursive = FALSE)
}

# The files that options of steps name: list(path, file) each.
plan_files <- function(plan) {
  of_step <- function(step) {
    own <- if (is.list(plan[[step]])) plan[[step]]
    entries <- step_entries(step)
    files <- Filter(function(name) entries[[name]]$kind %in% c("norms", "matrix", "file") && is.character(own[[name]]), names(own))
    lapply(files, function(name) list(path = c(step, name), file = own[[name]]))
  }
  unlist(lapply(configured_steps(), of_step), recursive = FALSE)
}

first_or_null <- function(x) if (length(x) == 0) NULL else x[1]

# Unknown figures, and two bounds in the wrong order.
limit_faults <- function(limits) {
  known <- sw_limits()
  faults <- lapply(names(limits), function(figure) {
    value <- unlist(limits[[figure]])
    rule <- known[match(figure, known$figure), ]
    text <- if (is.na(rule$figure)) worded("fault_no_figure", near = did_you_mean(figure, known$figure)) else
      if (!length(value) %in% 1:2) worded("fault_one_or_two") else limit_order_fault(value, rule$direction)
    if (!is.null(text)) list(path = c("limits", figure), text = text)
  })
  Filter(Negate(is.null), faults)
}

# Columns and items that are not there.
name_faults <- function(plan, beside) {
  codebook <- sw_codebook(beside(plan$codebook))
  items <- codebook$items$item
  read <- plan_columns(plan, beside, items[codebook$items$role != "aside"])
  columns <- read$names
  among <- function(path, named, known, what) {
    named <- as.character(unlist(named))
    lapply(setdiff(named, known), function(name) {
      list(path = path, text = worded("fault_there_is_no", what = message_of("a_term", term = what), name = name,
        near = did_you_mean(name, known)))
    })
  }
  scales <- unique(codebook$items$scale[!is.na(codebook$items$scale)])
  of_steps <- lapply(configured_steps(), function(step) {
    own <- if (is.list(plan[[step]])) plan[[step]]
    entries <- step_entries(step)
    unlist(lapply(names(own), function(name) {
      path <- c(step, name)
      switch(entries[[name]]$kind,
        column = , columns = among(path, own[[name]], columns, "column"),
        signs = among(path, names(own[[name]]), columns, "column"),
        names = if (name == "items") among(path, own[[name]], c(items, scales), "item or subscale")
      )
    }), recursive = FALSE)
  })
  of_lists <- lapply(c("flip", "set_aside", "move", "kept", "amend"), function(key) {
    unlist(lapply(seq_along(plan[[key]]), function(i) among(c(key, i, "items"), plan[[key]][[i]]$items, items, "item")), recursive = FALSE)
  })
  waves <- if (!is.null(plan$waves) && isTRUE(plan$wave %in% columns)) {
    among("waves", plan$waves, read$waves, "wave")
  }
  structure <- if (is.list(plan$structure)) {
    unlist(lapply(names(plan$structure), function(f) among(c("structure", f), plan$structure[[f]], items, "item")), recursive = FALSE)
  }
  unlist(c(lapply(c("id", "group", "wave", "cluster", "weight"), function(key) among(key, plan[[key]], columns, "column")), of_steps, of_lists,
    list(waves, structure)),
    recursive = FALSE)
}
