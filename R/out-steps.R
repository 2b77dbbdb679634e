# The whole path as steps, each with what it needs: what a plan may change, leave out, and keep.

# Every step a newcomer would take: screen, repair the keying where an item is shown to point the other way, explore, confirm the declared
# subscales on everybody, reliability, score. Where the codebook declares no subscale, or a plan asks for a split, what one half shows is confirmed on
# the other. needs: earlier steps; run: a function(have, options, common) of their results, the plan's options and list(seed, limits, asked);
# if_possible: data that do not allow the step leave it out, unless the plan asks for it.
path_steps <- function() {
  step <- function(needs, run, words = NULL, if_possible = FALSE) list(needs = needs, run = run, words = words, if_possible = if_possible)
  explored <- c("survey", "split")
  list(
    screening = step("answers", function(have, o, c) call_verb(sw_screen, first_wave(have$answers), o, c), "screening items"),
    keying = step("answers", function(have, o, c) {
      if (any(lengths(survey_scales(have$answers)) >= 3)) call_verb(sw_keying, first_wave(have$answers), o, c)
    }),
    answering = step("answers", function(have, o, c) {
      if (length(analysed_items(have$answers)) >= 3) call_verb(sw_answering, have$answers, o, c)
    }),
    option_curves = step("answers", function(have, o, c) {
      tests <- intersect(test_items(have$answers), analysed_items(have$answers))
      if (length(tests) > 0) call_verb(sw_option_curves, first_wave(have$answers), o, c)
    }, if_possible = TRUE),
    survey = step("answers", repaired_survey),
    split = step("survey", function(have, o, c) {
      wanted <- isTRUE(c$asked) || (!declares_scales(have$survey) && halves_can_carry(first_wave(have$survey)))
      if (wanted) call_verb(sw_split, first_wave(have$survey), o, c)
    }),
    factorability = step(explored, function(have, o, c) call_verb(sw_factorability, half_of(have, "calibration"), o, c),
      "looking for the number of factors", if_possible = TRUE),
    retention = step(explored, function(have, o, c) call_verb(sw_retention, half_of(have, "calibration"), o, c), if_possible = TRUE),
    exploration = step(c(explored, "retention"), explored_step, "extracting and rotating", if_possible = TRUE),
    stability = step(c(explored, "exploration"), function(have, o, c) {
      o <- utils::modifyList(c(list(halves = 50), explored_as(have$exploration)), o)
      call_verb(sw_stability, half_of(have, "calibration"), o, c)
    }, if_possible = TRUE),
    structure = step(c("survey", "exploration"), planned_structure, if_possible = TRUE),
    subscales = step(c("survey", "structure", "exploration"), adopted_survey),
    dif = step("subscales", function(have, o, c) {
      if (is.null(o$by)) o$by <- have$subscales$group[1]
      if (!is.null(o$by)) call_verb(sw_dif, first_wave(have$subscales), o, c)
    }, if_possible = TRUE),
    confirmation = step(c("subscales", "split", "structure"), function(have, o, c) {
      held <- call_verb(sw_confirm, half_of(have, "validation"), c(list(structure = have$structure), o), c)
      with_notes(held, c(naming_note(have$structure$named), if (is.null(have$split)) cross_validation_note(have, held), proposal_note(have, held)))
    }, "confirming the structure", if_possible = TRUE),
    reliability = step("subscales", function(have, o, c) call_verb(sw_reliability, first_wave(have$subscales), o, c), "computing reliability",
      if_possible = TRUE),
    invariance = step(c("subscales", "split", "structure"), compared_step, "comparing groups", if_possible = TRUE),
    validity = step("confirmation", function(have, o, c) if (believable(have)) call_verb(sw_validity, have$confirmation, o, c), if_possible = TRUE),
    # Only where a plan asks for them: they answer another question than the rest.
    composites = step(c("subscales", "split", "structure", "confirmation"), function(have, o, c) {
      if (is.null(o$replicates)) o$replicates <- 200
      o <- c(list(structure = have$structure), o)
      if (believable(have) && length(have$structure$factors) > 1) call_verb(sw_composites, half_of(have, "validation"), o, c)
    }, if_possible = TRUE),
    scores = step(c("subscales", "confirmation"), scored_step, "scoring", if_possible = TRUE)
  )
}

declares_scales <- function(survey) length(survey_scales(survey)) > 0

# Where the declared structure is refuted and no one change of it brings it back, what exploring the same people proposes, which decides nothing.
proposal_note <- function(have, held) {
  if (is.null(have$exploration) || !is.null(have$structure$explored) || !refuted(held)) {
    return(NULL)
  }
  note("exploration_proposes", message_of("exploration_proposes", factors = ncol(have$exploration$parts$pattern)), rank = 1L)
}

# Misses a usual bound by its interval, or is no possible solution, and no reading explains it.
refuted <- function(held) {
  fit <- held$tables$fit
  missed <- any(fit$verdict[fit$figure %in% c("cfi", "rmsea", "srmr")] %in% "missed")
  (missed || held$about$status != "ok") && NROW(held$tables$readings) == 0
}

# Can both halves carry a confirmation: 150 people at least, and three for each of its parameters?
halves_can_carry <- function(survey) {
  items <- length(scored_items(survey))
  factors <- max(length(survey_scales(survey)), 1)
  source_count(survey)$used / 2 >= max(150, 3 * (2 * items + factors * (factors - 1) / 2))
}

# How the structure would have fitted had it been explored in one half and confirmed in the other, gaps and estimator as in what was held: mean
# over ten random halves.
cross_validation_note <- function(have, held) {
  if (is.null(have$exploration) || is.null(have$structure$explored)) {
    return(NULL)
  }
  survey <- half_of(have, "validation")
  options <- utils::modifyList(explored_as(have$exploration), list(starts = 5, errors = "none"))
  fits <- lapply(seq_len(10), function(i) {
    tryCatch({
      halves <- sw_split(survey, seed = i)
      explored <- do.call(sw_explore, c(list(halves$calibration), options[intersect(names(options), names(formals(sw_explore)))]))
      fit <- sw_confirm(halves$validation, drop_thin_factors(sw_structure(explored)), estimator = held$about$options$estimator,
        missing = held$about$options$missing)
      if (fit$about$status == "ok") c(fit$parts$figures$cfi, fit$parts$figures$rmsea)
    }, scalewort_error = function(e) NULL)
  })
  fits <- do.call(rbind, fits)
  words <- if (NROW(fits) < 5) message_of("halves_too_small_to_validate") else
    message_of("cross_validated", cfi = mean(fits[, 1]), rmsea = mean(fits[, 2]))
  note("cross_validated", words, rank = 1L)
}

# Calls a verb with options given by name, and with what all steps share (seed, limits) where it takes that.
call_verb <- function(verb, x, options, common) {
  taken <- setdiff(intersect(names(common), names(formals(verb))), names(options))
  do.call(verb, c(list(x), as_called(options, x), common[taken]))
}

# Options that name a subscale, or a score of it, as the codebook does: by the name that its factor was given.
as_called <- function(options, survey) {
  called <- if (has_answers(survey)) survey$called
  renamed <- function(names) {
    for (old in names(called)) {
      names <- ifelse(names == old, called[[old]], ifelse(startsWith(names, paste0(old, "_")), sub(old, called[[old]], names, fixed = TRUE), names))
    }
    names
  }
  if (length(called) == 0) {
    return(options)
  }
  lapply(options, function(value) {
    # A structure or a result knows its names.
    if (is.object(value)) {
      return(value)
    }
    if (is.list(value)) value <- as_called(value, survey) else if (is.character(value)) value[] <- renamed(value)
    if (!is.null(names(value))) names(value) <- renamed(names(value))
    value
  })
}

# A half of the cases, or all of them without a split; keyed as the subscales are.
half_of <- function(have, which) {
  out <- if (is.null(have$split)) first_wave(have$survey) else have$split[[which]]
  if (!is.null(have$subscales)) out[c("codebook", "called")] <- have$subscales[c("codebook", "called")]
  out
}

believable <- function(have) identical(have$confirmation$about$status, "ok")

# The answers with items turned that look unreversed, and careless cases set aside, on record.
repaired_survey <- function(have, o, c) {
  survey <- have$answers
  if (!is.null(o$careless)) {
    flags <- sw_answering(survey, at_least = o$careless$flags, limits = c$limits)$parts$flagged_rows
    if (length(flags) > 0) survey <- sw_drop(survey, cases = at_all_cases(survey, case_rows(survey) %in% flags) %in% TRUE, reason = o$careless$reason)
  }
  if (!isFALSE(o$repair) && length(survey_scales(survey)) > 0) {
    survey <- reverse_where_needed(survey, sw_reliability(first_wave(survey), limits = c$limits), o$kept)
  }
  if (is.null(survey$wave)) survey else log_step(survey, "waves", message_of("log_first_wave",
    cases = source_count(first_wave(survey))$used))
}

# Turns the items that look unreversed, and says so in the log.
reverse_where_needed <- function(survey, reliability, kept = character()) {
  scales <- reliability$tables$scales
  for (i in which(scales$looks_unreversed != "")) {
    for (item in setdiff(strsplit(scales$looks_unreversed[i], " ")[[1]], kept)) {
      reason <- message_of("alpha_before_after", scale = scales$scale[i], before = scales$alpha[i], after = scales$alpha_turned[i])
      survey <- sw_flip(survey, item, reason = say(reason, "en"))
      survey$log$said[[nrow(survey$log)]]$parts$reason <- reason
    }
  }
  survey
}

explored_step <- function(have, o, c) {
  if (is.null(o$factors) && is.null(have$retention)) stop_input(message_of("e_no_number_factors"))
  if (is.null(o$factors)) o$factors <- max(1, min(have$retention$parts$agreement$first, core_most_factors(length(scored_items(have$survey)))))
  call_verb(sw_explore, half_of(have, "calibration"), o, c)
}

# The options that an exploration had, as far as others take them.
explored_as <- function(exploration) {
  parts <- exploration$parts
  taken <- names(verb_options("stability", "plan"))
  own <- c(parts$settings, parts$source[c("items", "correlation")], list(factors = ncol(parts$pattern)))
  Filter(Negate(is.null), own[intersect(taken, names(own))])
}

planned_structure <- function(have, o, c) amended_structure(first_structure(have, o, c), o$amend, have$survey)

# The structure that a plan says; else the declared subscales, unless one half was explored for the other or there are none.
first_structure <- function(have, o, c) {
  declared <- declares_scales(have$survey) && is.null(have$split)
  from <- if (is.null(o$from)) if (declared || is.null(have$exploration)) "codebook" else "exploration" else o$from
  if (identical(from, "exploration")) {
    if (is.null(have$exploration)) stop_input(message_of("e_plan_takes_its"))
    structure <- drop_thin_factors(if (is.null(o$cutoff)) structure_by_limits(have$exploration, limit(c$limits, "loading")$bound) else
      sw_structure(have$exploration, cutoff = o$cutoff))
    structure$given <- intersect(have$exploration$parts$source$names, names(structure$factors))
    return(named_by_subscale(structure, have$survey))
  }
  if (inherits(from, "sw_structure")) {
    return(from)
  }
  if (identical(from, "codebook")) {
    return(drop_thin_factors(sw_structure(have$survey)))
  }
  if (is.list(from)) do.call(sw_structure, lapply(from, unlist)) else sw_structure(from)
}

# Each item with the factor on which it loads most. Left out is only what surely loads on none: from 100 people, every upper limit of its
# loadings below the bound.
structure_by_limits <- function(exploration, bound) {
  out <- sw_structure(exploration, cutoff = 0)
  found <- exploration$tables$estimates
  if (is.null(found) || exploration$about$n < 100) {
    return(out)
  }
  found <- found[found$factor %in% colnames(exploration$parts$pattern) & found$item %in% rownames(exploration$parts$pattern), ]
  reach <- tapply(pmax(abs(found$conf.low), abs(found$conf.high)), found$item, max)
  nowhere <- names(which(reach < bound))
  out$factors <- Filter(length, lapply(out$factors, setdiff, nowhere))
  with_left_out(out, nowhere, "nowhere")
}

# A factor of one item cannot be confirmed.
drop_thin_factors <- function(structure) {
  thin <- lengths(structure$factors) < 2
  if (any(thin)) structure <- with_left_out(structure, unlist(structure$factors[thin], use.names = FALSE), "alone")
  structure$factors <- structure$factors[!thin]
  if (length(structure$factors) == 0) stop_structure(message_of("e_no_factor_two"))
  structure
}

# A factor at home in a subscale gets its name, unless somebody named it.
named_by_subscale <- function(structure, survey) {
  homes <- homes_of_factors(structure, survey)
  homes <- homes[setdiff(names(homes), structure$given)]
  if (length(homes) > 0) {
    structure$named <- homes
    at <- match(names(homes), names(structure$factors))
    names(structure$factors)[at] <- homes
  }
  structure
}

# The subscale of each factor whose items all come from one, and take from it what no other factor does, by factor.
homes_of_factors <- function(structure, survey) {
  scales <- survey_scales(survey)
  homes <- lapply(structure$factors, function(items) names(scales)[vapply(scales, function(s) any(items %in% s), TRUE)])
  clear <- lengths(homes) == 1 & !vapply(homes, function(home) any(home %in% unlist(homes)[duplicated(unlist(homes))]), TRUE)
  unlist(homes[clear])
}

# A subscale whose factor somebody named has that name from here on.
scales_named <- function(survey, structure) {
  homes <- homes_of_factors(structure, survey)
  for (factor in intersect(structure$given, setdiff(names(homes), names(survey_scales(survey))))) {
    survey$codebook$items$scale[survey$codebook$items$scale %in% homes[[factor]]] <- factor
    survey$called[[homes[[factor]]]] <- factor
    survey <- log_step(survey, "subscale named", message_of("log_scale_named", scale = homes[[factor]], name = factor))
  }
  survey
}

compared_step <- function(have, o, c) {
  # Everybody is compared, the explored half, too: groups are smaller than halves.
  survey <- if (is.null(o$across)) first_wave(have$subscales) else have$subscales
  if (is.null(o$by) && is.null(o$across)) o$by <- survey$group[1]
  if (is.null(o$by) && is.null(o$across)) {
    return(NULL)
  }
  call_verb(sw_invariance, survey, c(list(structure = have$structure), o), c)
}

scored_step <- function(have, o, c) {
  bands <- as_called(o[intersect(names(verb_options("band", "plan")), names(o))], have$subscales)
  if (identical(o$as, "confirmed")) o$structure <- scored_as_confirmed(have$structure)
  o <- o[setdiff(names(o), c("as", names(bands)))]
  if (any(o$method %in% factor_methods)) o$from <- have$confirmation
  o$limits <- c$limits
  out <- score_beside(have$subscales, as_called(o, have$subscales))
  out$parts$unlike <- unlike_confirmed(out, have$confirmation)
  if (!declares_scales(have$survey)) out <- with_notes(out, first = TRUE, note("name_subscales", message_of("name_subscales"), rank = 1L))
  if (length(bands) > 0) do.call(sw_band, c(list(out), bands)) else out
}

# Scores, where the file has columns of these names already, too: those keep their place under another name.
score_beside <- function(survey, options) {
  clash <- NULL
  out <- tryCatch(do.call(sw_score, c(list(survey), options)), scalewort_error_input = function(e) {
    if (is.null(e$taken)) stop(e)
    clash <<- e$taken
    NULL
  })
  if (is.null(clash)) {
    return(out)
  }
  out <- do.call(sw_score, c(list(survey), utils::modifyList(options, list(overwrite = TRUE))))
  out$parts$renamed <- stats::setNames(utils::tail(make.unique(c(source_names(survey), paste0(clash, "_given"))), length(clash)), clash)
  with_notes(out, note("columns_renamed", message_of("columns_renamed", columns = clash, called = unname(out$parts$renamed))))
}

# Where the codebook has no subscales, or a plan scores what was confirmed, the factors of the structure are taken for these, items that
# load against their factor reversed; on record.
adopted_survey <- function(have, o, c) {
  survey <- have$survey
  confirmed <- identical(o$as, "confirmed") && !is.null(have$structure)
  if (!confirmed && (declares_scales(survey) || is.null(have$structure))) {
    return(scales_named(survey, have$structure))
  }
  scales <- scored_as_confirmed(have$structure)$factors
  shared <- duplicated(unlist(scales, use.names = FALSE))
  if (any(shared)) scales <- utils::head(scales, -1)
  if (confirmed) survey$codebook$items$scale[survey$codebook$items$item %in% scored_items(survey)] <- NA_character_
  loadings <- if (!confirmed) have$exploration$tables$items
  survey <- give_scales(survey, scales, loadings$item[loadings$loading < 0 & loadings$place != "nowhere"],
    if (confirmed) "log_factors_confirmed" else "log_factors_given")
  if (is.null(loadings)) reverse_where_needed(survey, sw_reliability(first_wave(survey), limits = c$limits)) else survey
}

# The structure as scores are made of it: each item in the first of its factors, and a general factor of all items last; one of some items that are
# others' already, such as reversed wording, gives no score.
scored_as_confirmed <- function(structure) {
  all <- structure$factors
  general <- names(all)[vapply(all, setequal, TRUE, y = structure_items(structure)) & length(all) > 1]
  own <- list()
  for (name in setdiff(names(all), general)) own[[name]] <- setdiff(all[[name]], unlist(own))
  structure$factors <- c(Filter(length, own), all[general])
  structure
}

naming_note <- function(named) {
  if (length(named) > 0) {
    note("named_factors", message_of("named_factors", names = messages_of("name_aside", name = unname(named), aside = names(named))), named,
      rank = 3L)
  }
}
