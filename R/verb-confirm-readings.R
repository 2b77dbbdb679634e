# Why a structure misses: other structures near it, each fitted on everybody, the best by BIC first (Schwarz, 1978). About 20 are looked at, so that
# one is claimed only where its BIC is lower by more than `claimed_gain` (about 2 ln K for K of them; Chen & Chen, 2008); a merge, which has fewer
# parameters, where its BIC is lower. A test of exact fit does not come first: it would cost power and save nothing.

claimed_gain <- 8

# Where many changes could be freed, or few people make ln n small, the score test of the one must stand out among all, too.
claimed_level <- .03

# list(table, structures). The table, best first: reading (code), name (of what; item and with, where it is about two), chi_square, df, cfi, rmsea,
# gain (of BIC, from chi-square corrected for few people, over the scale of an adjusted test). What is not claimed is left out.
misfit_readings <- function(x, structure, basis, cells, fit, tables, options, limits) {
  # Where more is said than loadings and pairs, another set of factors would not mean the same.
  plain <- length(c(structure$higher, structure$fixed, structure$equal, structure$bounds, structure$means)) == 0
  rivals <- c(
    freed_rivals(structure, tables$modifications, "pair"), freed_rivals(structure, tables$modifications, "loading"),
    if (plain) moved_rivals(structure, tables$modifications), if (plain) merged_rivals(structure, tables$factor_correlations, basis$n),
    if (plain) split_rivals(x, structure, basis, fit), if (plain) wording_rival(x, structure)
  )
  scale <- if (is.null(fit$scale)) 1 else fit$scale
  if (!is.null(fit$adjusted)) scale <- 1 / fit$adjusted$scale
  small <- readings_correction(tables$fit)
  worst <- fit$baseline$chi_square - (if (is.null(fit$scale)) scale else fit$baseline$scale) * fit$baseline$df
  options$estimator <- sub("robust", "ml", options$estimator)
  options$alone <- TRUE
  found <- lapply(rivals, function(rival) {
    free <- quick_fit(rival$structure, basis, options)
    if (is.null(free)) {
      return(NULL)
    }
    excess <- free$chi_square - scale * free$df
    gain <- small * (fit$chi_square - free$chi_square) / scale - (fit$df - free$df) * log(basis$n)
    # Of one parameter the score test knows the errors of these very answers; the mean scale of an adjusted test does not.
    if (!is.null(rival$index)) {
      index <- small * rival$index / (if (is.null(fit$scale)) 1 else fit$scale)
      stands_out <- core_chi_square_p(index, 1) <= claimed_level / nrow(tables$modifications)
      # Where the answers give no scale for the test, nothing stands out.
      if (!isTRUE(stands_out && index - log(basis$n) > claimed_gain)) {
        return(NULL)
      }
    }
    c(rival[c("reading", "name")], list(
      item = c(rival$item, "")[1], with = c(rival$with, "")[1],
      chi_square = free$chi_square, df = free$df, cfi = 1 - max(excess, 0) / max(worst, excess, 1e-12),
      rmsea = sqrt(max(excess, 0) / (free$df * basis$n)),
      gain = gain, structure = list(rival$structure)
    ))
  })
  found <- Filter(function(one) !is.null(one) && isTRUE(one$gain > least_gain(one$reading, basis$kind)), found)
  column <- function(name, kind) vapply(found, `[[`, kind, name)
  out <- plain_table(
    reading = column("reading", ""), name = column("name", ""), item = column("item", ""), with = column("with", ""),
      chi_square = column("chi_square", 0), df = column("df", 0),
    cfi = column("cfi", 0), rmsea = column("rmsea", 0), gain = column("gain", 0)
  )
  order <- order(-out$gain)
  list(table = out[order, ], structures = lapply(found, function(one) one$structure[[1]])[order])
}

# What a reading must gain. Of latent correlations the mean scale of the test fits no set of parameters well: sets must gain twice as much.
least_gain <- function(reading, kind) {
  sets <- reading %in% c("split", "scales", "wording")
  if (reading == "merge") 0 else if (sets && kind == "ordinal") 2 * claimed_gain else claimed_gain
}

# What corrects chi-square for few people.
readings_correction <- function(fit) {
  row <- judged_chi_square(fit)
  out <- row$corrected / row$value
  if (isTRUE(is.finite(out) && out > 0 && out < 1)) out else 1
}

# A fit for its chi-square alone, from one start; NULL where it does not end at a possible solution.
quick_fit <- function(structure, basis, options) {
  factors <- length(structure_factor_names(structure))
  cells <- confirm_cells(structure, basis, options)
  if (core_fitted_moments(basis, cells) <= max(cells$free)) {
    return(NULL)
  }
  fit <- core_fit_once(basis, cells, factors, core_structure_start(cells, basis$s, factors, basis$mean), options)
  if (fit$status != "ok" || !core_is_possible(core_sample_matrices(basis, cells, fit, factors), fit$implied)) {
    return(NULL)
  }
  list(chi_square = fit$chi_square, df = core_fitted_moments(basis, cells) - length(fit$theta), fit = fit, cells = cells)
}

# The three changes of one kind that the score tests name first.
freed_rivals <- function(structure, modifications, kind) {
  top <- modifications[modifications$change_of == kind & (kind == "pair" | modifications$with %in% names(structure$factors)), ]
  lapply(seq_len(min(nrow(top), 3)), function(i) {
    one <- top[i, ]
    changed <- if (kind == "pair") sw_add_pair(structure, one$item, one$with) else sw_add_loading(structure, one$item, one$with)
    less <- if (kind == "pair" && isTRUE(one$change < 0)) "apart" else kind
    list(reading = less, name = paste(one$item, "and", one$with), item = one$item, with = one$with, index = one$index, structure = changed)
  })
}

# The three items that score tests send first to another factor, moved there: an item of one factor of three or more.
moved_rivals <- function(structure, modifications) {
  top <- modifications[modifications$change_of == "loading" & modifications$with %in% names(structure$factors), ]
  top <- top[!duplicated(top$item), ]
  rivals <- lapply(seq_len(nrow(top)), function(i) {
    home <- names(structure$factors)[vapply(structure$factors, function(own) top$item[i] %in% own, TRUE)]
    if (length(home) != 1 || length(structure$factors[[home]]) < 3 || top$item[i] %in% unlist(structure$pairs)) {
      return(NULL)
    }
    moved <- structure
    moved$factors[[home]] <- setdiff(moved$factors[[home]], top$item[i])
    moved$factors[[top$with[i]]] <- c(moved$factors[[top$with[i]]], top$item[i])
    list(reading = "move", name = paste(top$item[i], "and", top$with[i]), item = top$item[i], with = top$with[i], index = top$index[i],
      structure = moved)
  })
  utils::head(Filter(Negate(is.null), rivals), 3)
}

# Two factors as one, where their correlation comes so near to one that BIC could prefer it.
merged_rivals <- function(structure, links, n) {
  names <- names(structure$factors)
  links <- links[links$factor %in% names & links$with %in% names, ]
  error <- (links$conf.high - links$correlation) / core_normal_edge(.95)
  near <- which(links$correlation + sqrt((length(names) - 1) * log(n)) * error >= 1)
  lapply(near, function(i) merged_rival(structure, c(links$factor[i], links$with[i])))
}

merged_rival <- function(structure, pair) {
  merged <- structure
  merged$factors[[pair[1]]] <- union(merged$factors[[pair[1]]], merged$factors[[pair[2]]])
  merged$factors[[pair[2]]] <- NULL
  merged$unlinked <- Filter(function(one) !any(pair %in% one), merged$unlinked)
  list(reading = "merge", name = paste(pair, collapse = " and "), item = pair[1], with = pair[2], structure = merged)
}

# Each factor of four items or more as two: by the codebook's subscales where they divide it, else by what its items leave
# over.
split_rivals <- function(x, structure, basis, fit) {
  left <- core_residual_r(basis$s, fit$implied)
  scales <- if (has_answers(x)) survey_scales(x) else list()
  rivals <- lapply(names(structure$factors), function(factor) {
    items <- structure$factors[[factor]]
    own <- Filter(function(mine) length(mine) > 1, lapply(scales, intersect, x = items))
    shared <- length(unlist(own)) != length(items) || anyDuplicated(unlist(own)) > 0
    given <- length(own) > 1 && !shared
    parts <- if (given) own else halves_by_residuals(items, left, structure)
    if (is.null(parts)) {
      return(NULL)
    }
    list(reading = if (given) "scales" else "split", structure = replaced_factor(structure, factor, parts),
      name = if (given) paste(names(parts), collapse = ", ") else paste0(factor, ": ", paste(vapply(parts, paste, "", collapse = " "),
        collapse = " | ")))
  })
  Filter(Negate(is.null), rivals)
}

# The items' residual correlations have a first axis: those on one side of it, and those on the other. NULL for fewer than
# two on a side, or items that other factors share.
halves_by_residuals <- function(items, left, structure) {
  alone <- vapply(items, function(item) sum(unlist(structure$factors) == item) == 1, TRUE)
  if (length(items) < 4 || !all(alone)) {
    return(NULL)
  }
  axis <- eigen(left[items, items], symmetric = TRUE)$vectors[, 1]
  parts <- unname(split(items, factor(axis * sign(axis[1]) < 0, c(FALSE, TRUE))))
  if (min(lengths(parts)) < 2) NULL else parts
}

replaced_factor <- function(structure, factor, parts) {
  if (is.null(names(parts))) names(parts) <- paste0(factor, ".", seq_along(parts))
  taken <- setdiff(names(structure$factors), factor)
  names(parts) <- ifelse(names(parts) %in% taken, paste0(names(parts), ".new"), names(parts))
  at <- match(factor, names(structure$factors))
  structure$factors <- append(structure$factors[-at], parts, at - 1)
  structure$unlinked <- Filter(function(pair) !factor %in% pair, structure$unlinked)
  structure
}

# A factor of the reversed items' wording, where three or more are reversed and some are not.
wording_rival <- function(x, structure) {
  if (!has_answers(x)) {
    return(NULL)
  }
  items <- structure_items(structure)
  turned <- items[is_turned(item_spec(x, items))]
  if (length(turned) < 3 || length(turned) == length(items) || "wording" %in% c(items, structure_factor_names(structure))) {
    return(NULL)
  }
  list(list(reading = "wording", name = paste(turned, collapse = " "), structure = sw_add_wording(structure, turned)))
}

# Is exact fit rejected, once corrected for a small sample?
rejected_fit <- function(fit) fit$figure %in% c("chi_square", "chi_square_scaled") & fit$verdict %in% "missed"

# Each reading in words.
reading_messages <- function(readings) {
  unname(Map(function(reading, name) {
    parts <- strsplit(name, " and ", fixed = TRUE)[[1]]
    switch(reading,
      pair = message_of("reading_pair", first = parts[1], second = parts[2]), apart = message_of("reading_apart", first = parts[1],
        second = parts[2]),
      loading = message_of("reading_loading", item = parts[1], factor = parts[2]),
      scales = message_of("reading_scales", scales = strsplit(name, ", ", fixed = TRUE)[[1]]),
      split = message_of("reading_split", factor = sub(":.*$", "", name), sets = gsub(" | ", " / ", sub("^[^:]*: ", "", name), fixed = TRUE)),
      move = message_of("reading_move", item = parts[1], factor = parts[2]), merge = message_of("reading_merge", first = parts[1], second = parts[2]),
      wording = message_of("reading_wording")
    )
  }, readings$reading, readings$name))
}

# Readings of different places: none that has an item of a better one, unless it is nearly as good.
readings_apart <- function(readings) {
  kept <- integer()
  for (i in seq_len(NROW(readings))) {
    own <- c(readings$item[i], readings$with[i])
    better <- kept[readings$gain[kept] > readings$gain[i] + close_readings]
    if (!any(own[own != ""] %in% readings$item[better])) kept <- c(kept, i)
  }
  readings[kept, ]
}

# Readings nearer than this in BIC are named together.
close_readings <- 4
