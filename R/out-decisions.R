# Decisions: what a reader of the results changed, in order, each with its reason. A plan with decisions is the plan without them and
# each applied in turn; nothing else knows of them.

# What each kind of decision does to a plan; what it needs, as keys of the decision.
decision_kinds <- list(
  turn = list(needs = "items", apply = function(plan, d) turned_in(plan, unlist(d$items), d$reason)),
  set_aside = list(needs = character(), apply = function(plan, d) {
    append_record(plan, "set_aside", c(Filter(length, d[c("items", "cases")]), list(reason = d$reason)))
  }),
  put_back = list(needs = character(), apply = function(plan, d) {
    plan$set_aside <- without_names(plan$set_aside, list(items = d$items, cases = d$cases))
    plan
  }),
  move = list(needs = c("items", "to"), apply = function(plan, d) append_record(plan, "move", d[c("items", "to", "reason")])),
  keep = list(needs = "items", apply = function(plan, d) append_record(plan, "kept", d[c("items", "reason")])),
  set = list(needs = "name", apply = function(plan, d) set_in(plan, d$step, d$name, d$value)),
  leave_out = list(needs = "step", apply = function(plan, d) {
    plan[[d$step]] <- FALSE
    plan
  }),
  take_up = list(needs = "step", apply = function(plan, d) {
    plan[d$step] <- if (d$step %in% c("composites", "split")) list(TRUE) else NULL
    plan
  }),
  amend = list(needs = "name", apply = function(plan, d) {
    append_record(plan, "amend", c(list(what = d$name), Filter(length, d[c("items", "to", "of")]), list(reason = d$reason)))
  })
)

# The plan that decisions lead to, without them.
decided_plan <- function(plan) {
  decisions <- plan$decisions
  plan[c("decisions", "undone")] <- NULL
  for (d in decisions) plan <- decision_kinds[[d$do]]$apply(plan, d)
  plan
}

# The plan with a further decision; what had been undone is gone.
decide <- function(plan, do, ..., reason = NULL) {
  decision <- c(list(do = do), Filter(Negate(is.null), list(...)), list(reason = reason))
  lacking <- setdiff(decision_kinds[[do]]$needs, names(decision))
  if (length(lacking) > 0) stop_input(message_of("e_decision_lacks", do = do, lacking = lacking))
  if (is.null(decision$reason)) stop_input(message_of("e_decision_needs_reason"))
  plan$decisions <- c(plan$decisions, list(decision))
  plan$undone <- NULL
  plan
}

# One step back, and forth again; the plan as it is where there is none.
undo_decision <- function(plan) {
  n <- length(plan$decisions)
  if (n == 0) {
    return(plan)
  }
  plan$undone <- c(plan$decisions[n], plan$undone)
  plan$decisions <- plan$decisions[-n]
  plan
}

redo_decision <- function(plan) {
  if (length(plan$undone) == 0) {
    return(plan)
  }
  plan$decisions <- c(plan$decisions, plan$undone[1])
  plan$undone <- plan$undone[-1]
  plan
}

append_record <- function(plan, key, record) {
  plan[[key]] <- c(plan[[key]], list(record))
  plan
}

# Turning an item that is turned takes the turn back.
turned_in <- function(plan, items, reason) {
  turned <- unlist(lapply(plan$flip, `[[`, "items"))
  plan$flip <- without_names(plan$flip, list(items = intersect(items, turned)))
  new <- setdiff(items, turned)
  if (length(new) > 0) append_record(plan, "flip", list(items = as.list(new), reason = reason)) else plan
}

# Records without these items and cases; those with none left are gone.
without_names <- function(records, named) {
  left <- lapply(records, function(record) {
    for (key in names(named)) {
      rest <- setdiff(as.character(unlist(record[[key]])), as.character(unlist(named[[key]])))
      record[[key]] <- if (length(rest) > 0) as.list(rest)
    }
    record
  })
  Filter(function(record) length(record$items) + length(record$cases) > 0, left)
}

# An option of a step, or a key of the plan itself; without a value the default again.
set_in <- function(plan, step, name, value) {
  if (is.null(step)) {
    plan[[name]] <- value
    return(plan)
  }
  own <- if (is.list(plan[[step]])) plan[[step]] else list()
  own[[name]] <- value
  # Names are of as many factors as there were when they were given.
  if (step == "exploration" && name == "factors" && is.numeric(value) && length(own$names) != value[1]) own$names <- NULL
  plan[step] <- if (length(own) > 0) list(own)
  plan
}

# Decisions in a plan's file: the rest of the file, comments and all, stays as it is. What is about to be written is read first: where it would
# not say the plan that is meant (another way of writing YAML), the plan is written whole, and the file as it was is kept beside it. Returns
# the path of that copy, or NULL.
write_decisions <- function(path, plan) {
  lines <- utf8_lines(path)
  text <- spliced_decisions(lines, plan)
  copy <- NULL
  if (!says_plan(text, plan)) {
    text <- plan_text(plan)
    if (!says_plan(text, plan)) stop_file(message_of("e_decision_cannot_written", path = path), hint = message_of("e_nothing_been_changed"))
    copy <- free_name(sub("([.]ya?ml)$", "-as-it-was\\1", path, ignore.case = TRUE))
    write_safely(copy, FALSE, function(draft) file.copy(path, draft, overwrite = TRUE))
  }
  write_safely(path, TRUE, function(draft) writeLines(enc2utf8(text), draft, useBytes = TRUE))
  copy
}

spliced_decisions <- function(lines, plan) {
  lines <- without_keys(lines, c("decisions", "undone"))
  while (length(lines) > 0 && !nzchar(trimws(lines[length(lines)]))) lines <- lines[-length(lines)]
  own <- Filter(length, plan[c("decisions", "undone")])
  enc2utf8(c(lines, if (length(own) > 0) c("", plan_text(own))))
}

plan_text <- function(plan) strsplit(yaml::as.yaml(plan, indent.mapping.sequence = TRUE), "\n", fixed = TRUE)[[1]]

# Do these lines, read as a plan is read, say this plan?
says_plan <- function(lines, plan) {
  said <- tryCatch(parsed_yaml(lines, list(seq = as.list)), error = function(e) NULL)
  in_order <- function(x) {
    x <- Filter(length, x)
    yaml::as.yaml(x[order(names(x), method = "radix")])
  }
  is.list(said) && identical(in_order(said), in_order(plan))
}

# A name that no file has: with a number where the first is taken.
free_name <- function(path) {
  ending <- tools::file_ext(path)
  stem <- tools::file_path_sans_ext(path)
  tried <- c(path, paste0(stem, "-", 2:1000, ".", ending))
  tried[!file.exists(tried)][1]
}

# Lines without those of some keys at the left margin.
without_keys <- function(lines, keys) {
  starts <- grepl("^[A-Za-z_\"']", lines)
  key <- gsub("[\"']", "", sub("^([^:]*):.*$", "\\1", lines))
  of <- cummax(ifelse(starts, seq_along(lines), 0L))
  lines[of == 0 | !key[pmax(of, 1)] %in% keys]
}
