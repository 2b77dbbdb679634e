# The answer of invariance, and what to look at first.

#' @export
headline.sw_invariance <- function(x) {
  steps <- x$tables$steps
  options <- x$about$options
  if (steps$why[1] == "not_usable") {
    return(message_of("nothing_comparable"))
  }
  over <- message_of(if (is.null(options$across)) "over_groups" else if (is.null(options$by)) "over_waves" else "over_groups_and_waves",
    count = options$occasions)
  if (steps$verdict[1] == "missed") {
    return(message_of("no_ground", over = over, cfi = steps$cfi[1], rmsea = steps$rmsea[1]))
  }
  effects <- x$tables$effects
  list(steps_answer(steps, over), culprit_message(x), if (!is.null(effects)) message_of("freed_items", items = unique(effects$item)),
    means_message(x$tables$means, x))
}

# What holds, what is open, what does not hold, what is not tested.
steps_answer <- function(steps, over) {
  equality <- function(i) message_of(if (steps$why[i] == "in_part") "equality_in_part" else "equality", step = steps$step[i])
  named <- function(which) lapply(which, equality)
  later <- seq_len(nrow(steps)) > 1
  holds <- which(steps$verdict == "met" & later)
  open <- which(steps$verdict == "near" & later)
  fails <- which(steps$verdict == "missed" & later)
  untested <- which(steps$why == "before")
  found <- if (length(holds) > 0) message_of("steps_hold", steps = named(holds), over = over) else
    if (length(open) > 0) message_of("nothing_surely_equal", over = over) else message_of("nothing_equal", over = over)
  message_of(if (steps$verdict[1] == "near") "steps_if_fits" else "steps_found", found = found,
    open = if (length(open) > 0) message_of("steps_open", steps = named(open)),
    failed = if (length(fails) > 0) message_of("steps_failed", steps = named(fails)),
    untested = if (length(untested) > 0) message_of("steps_untested", steps = named(untested)))
}

culprit_message <- function(x) {
  named <- x$tables$named
  if (NROW(named) == 0) {
    return(NULL)
  }
  message_of("first_to_look_at", item = named$item[1], kind = named$kind[1], occasion = named$occasion[1])
}

# Latent means that differ, with both groups by name and size.
means_message <- function(means, x) {
  if (is.null(means)) {
    return(NULL)
  }
  sizes <- x$tables$groups
  named <- function(label) {
    n <- sizes$n[match(label, sizes$group)]
    if (length(n) == 0 || is.na(n)) message_of("group_named", group = label) else message_of("group_with_n", group = label, n = n)
  }
  apart <- means[meets(means$p.value, x$limits, "test_p") %in% TRUE, ]
  if (nrow(apart) == 0) {
    return(message_of("no_mean_differs", group = named(means$against[1])))
  }
  message_of("means_differ", group = named(apart$against[1]), means = lapply(seq_len(nrow(apart)), function(i) {
    message_of(if (apart$effect[i] > 0) "mean_higher" else "mean_lower", factor = apart$factor[i], group = named(apart$occasion[i]),
      size = abs(apart$effect[i]))
  }))
}

#' @export
first_look.sw_invariance <- function(x) {
  c(
    list(x$tables$steps[c("step", "chi_square", "df", "cfi", "rmsea", "srmr", "cfi_change", "p_difference", "p_adjusted",
      "verdict")]),
    if (!is.null(x$tables$named)) list(x$tables$named),
    if (!is.null(x$tables$means)) list(x$tables$means[c("factor", "occasion", "mean", "std.error", "p.value", "effect", "conf.low", "conf.high")]),
    if (!is.null(x$tables$effects)) list(x$tables$effects), if (!is.null(x$tables$anchors)) list(x$tables$anchors),
    if (!is.null(x$tables$aligned)) x$tables[c("aligned", "alignment")]
  )
}

#' @export
glance_figures.sw_invariance <- function(x) {
  steps <- x$tables$steps
  list(steps = nrow(steps), last_that_holds = c(utils::tail(steps$step[steps$verdict %in% c("met", "between")], 1), NA)[1])
}

# The groups with their sizes, of twelve at most.
groups_message <- function(x) {
  groups <- x$tables$groups
  by <- message_of("by_columns", columns = x$about$options$by)
  if (NROW(groups) < 2 || NROW(groups) > 12) by else
    message_of("groups_with_sizes", by = by, groups = messages_of("group_n", group = groups$group, n = groups$n))
}

#' @export
sentences.sw_invariance <- function(x) {
  steps <- x$tables$steps
  options <- x$about$options
  over <- list(if (!is.null(options$by)) message_of("over_groups_of", groups = groups_message(x)),
    if (!is.null(options$across)) message_of("over_waves_of", column = options$across))
  effects <- x$tables$effects
  one <- lapply(seq_len(nrow(steps)), function(i) {
    step <- steps[i, ]
    message_of("step_reported", step = message_of("a_term", term = step$step), df = step$df, chi_square = step$chi_square, cfi = step$cfi,
      rmsea = step$rmsea, srmr = step$srmr,
      change = if (!is.na(step$cfi_change)) message_of("step_change", cfi = step$cfi_change, p = step$p_adjusted))
  })
  Filter(Negate(is.null), list(
    message_of("invariance_examined", over = Filter(Negate(is.null), over), steps = nrow(steps),
      how = message_of(paste0("invariance_", options$estimator)), n = x$about$n),
    message_of("steps_judged_by", p = limit(x$limits, "test_p")$bound, loading = limit(x$limits, "loading_difference")$bound,
      intercept = limit(x$limits, "intercept_difference")$bound),
    message_of("steps_reported", steps = one),
    if (!is.null(effects)) message_of(if (identical(options$release, "auto")) "equality_lifted_found" else "equality_lifted",
      items = unique(effects$item))
  ))
}
