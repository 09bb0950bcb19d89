;; Loops over all slots of the index. In plain code each look into an array of a million costs several times the work itself.
;; All addresses come with the call; arrays by slot have room for a multiple of 32 slots, and nothing stands behind the last one.
(module
  (memory (export "memory") 1)

  ;; Raises the best (one byte by slot) of listed slots (four bytes each) to what their sets of fields (two bytes each) are worth
  ;; (one byte by set). Where `owners` is not zero, only slots count of which it says (two bytes by slot) that they are `serial`'s.
  (func (export "raise")
    (param $best i32) (param $slots i32) (param $sets i32) (param $worth i32) (param $count i32) (param $owners i32)
    (param $serial i32)
    (local $end i32) (local $slot i32) (local $own i32) (local $more i32)
    (local.set $end (i32.add (local.get $slots) (i32.shl (local.get $count) (i32.const 2))))
    (block $done
      (loop $one
        (br_if $done (i32.ge_u (local.get $slots) (local.get $end)))
        (local.set $slot (i32.load (local.get $slots)))
        (local.set $own (i32.load8_u (i32.add (local.get $best) (local.get $slot))))
        (local.set $more (i32.load8_u (i32.add (local.get $worth) (i32.load16_u (local.get $sets)))))
        (if (local.get $owners)
          (then
            (local.set $more
              (select (local.get $more) (i32.const 0)
                (i32.eq
                  (i32.load16_u (i32.add (local.get $owners) (i32.shl (local.get $slot) (i32.const 1))))
                  (local.get $serial))))))
        (i32.store8 (i32.add (local.get $best) (local.get $slot))
          (select (local.get $more) (local.get $own) (i32.gt_u (local.get $more) (local.get $own))))
        (local.set $slots (i32.add (local.get $slots) (i32.const 4)))
        (local.set $sets (i32.add (local.get $sets) (i32.const 2)))
        (br $one))))

  ;; Takes the slots whose best is not zero as a set of bits, adds each best to the slot's score (two bytes) where `scored`, and
  ;; leaves zero; 32 slots at a time.
  (func (export "gather") (param $best i32) (param $scores i32) (param $words i32) (param $count i32) (param $scored i32)
    (local $end i32) (local $low v128) (local $high v128) (local $none v128)
    (local.set $end (i32.add (local.get $best) (local.get $count)))
    (block $done
      (loop $word
        (br_if $done (i32.ge_u (local.get $best) (local.get $end)))
        (local.set $low (v128.load (local.get $best)))
        (local.set $high (v128.load offset=16 (local.get $best)))
        (i32.store (local.get $words)
          (i32.or
            (i8x16.bitmask (i8x16.ne (local.get $low) (local.get $none)))
            (i32.shl (i8x16.bitmask (i8x16.ne (local.get $high) (local.get $none))) (i32.const 16))))
        (if (local.get $scored)
          (then
            (v128.store (local.get $scores)
              (i16x8.add (v128.load (local.get $scores)) (i16x8.extend_low_i8x16_u (local.get $low))))
            (v128.store offset=16 (local.get $scores)
              (i16x8.add (v128.load offset=16 (local.get $scores)) (i16x8.extend_high_i8x16_u (local.get $low))))
            (v128.store offset=32 (local.get $scores)
              (i16x8.add (v128.load offset=32 (local.get $scores)) (i16x8.extend_low_i8x16_u (local.get $high))))
            (v128.store offset=48 (local.get $scores)
              (i16x8.add (v128.load offset=48 (local.get $scores)) (i16x8.extend_high_i8x16_u (local.get $high))))))
        (v128.store (local.get $best) (local.get $none))
        (v128.store offset=16 (local.get $best) (local.get $none))
        (local.set $best (i32.add (local.get $best) (i32.const 32)))
        (local.set $scores (i32.add (local.get $scores) (i32.const 64)))
        (local.set $words (i32.add (local.get $words) (i32.const 4)))
        (br $word))))

  ;; Takes the slots whose best is not zero as a set of bits, and leaves all as it is.
  (func (export "mark") (param $best i32) (param $words i32) (param $count i32)
    (local $end i32) (local $none v128)
    (local.set $end (i32.add (local.get $best) (local.get $count)))
    (block $done
      (loop $word
        (br_if $done (i32.ge_u (local.get $best) (local.get $end)))
        (i32.store (local.get $words)
          (i32.or
            (i8x16.bitmask (i8x16.ne (v128.load (local.get $best)) (local.get $none)))
            (i32.shl (i8x16.bitmask (i8x16.ne (v128.load offset=16 (local.get $best)) (local.get $none))) (i32.const 16))))
        (local.set $best (i32.add (local.get $best) (i32.const 32)))
        (local.set $words (i32.add (local.get $words) (i32.const 4)))
        (br $word))))

  ;; Lists slots of a set, rising, whose place is higher than `least`: the score up to 1023, then the merit (one byte, up to 31).
  ;; Ends when `room` slots are listed; the first word at `out` tells how many are. Returns the slot to go on from.
  (func (export "better")
    (param $scores i32) (param $merits i32) (param $words i32) (param $slot i32) (param $count i32) (param $least i32)
    (param $out i32) (param $room i32) (result i32)
    (local $listed i32) (local $bits i32) (local $merit v128) (local $top v128) (local $limit v128) (local $at i32)
    (local.set $top (i16x8.splat (i32.const 1023)))
    (local.set $limit (i16x8.splat (local.get $least)))
    ;; Of the sixteen among which it begins, those before do not count.
    (local.set $bits (i32.shl (i32.const -1) (i32.and (local.get $slot) (i32.const 15))))
    (local.set $slot (i32.and (local.get $slot) (i32.const -16)))
    (block $full
      (loop $sixteen
        (br_if $full (i32.ge_u (local.get $slot) (local.get $count)))
        (local.set $bits
          (i32.and (local.get $bits)
            (i32.load16_u (i32.add (local.get $words) (i32.shr_u (local.get $slot) (i32.const 3))))))
        (if (local.get $bits)
          (then
            (local.set $merit (v128.load (i32.add (local.get $merits) (local.get $slot))))
            (local.set $at (i32.add (local.get $scores) (i32.shl (local.get $slot) (i32.const 1))))
            (local.set $bits
              (i32.and (local.get $bits)
                (i8x16.bitmask
                  (i8x16.narrow_i16x8_s
                    (i16x8.gt_s
                      (v128.or
                        (i16x8.shl (i16x8.min_u (v128.load (local.get $at)) (local.get $top)) (i32.const 5))
                        (i16x8.extend_low_i8x16_u (local.get $merit)))
                      (local.get $limit))
                    (i16x8.gt_s
                      (v128.or
                        (i16x8.shl (i16x8.min_u (v128.load offset=16 (local.get $at)) (local.get $top)) (i32.const 5))
                        (i16x8.extend_high_i8x16_u (local.get $merit)))
                      (local.get $limit))))))
            (block $none
              (loop $one
                (br_if $none (i32.eqz (local.get $bits)))
                (local.set $at (i32.add (local.get $slot) (i32.ctz (local.get $bits))))
                (local.set $bits (i32.and (local.get $bits) (i32.sub (local.get $bits) (i32.const 1))))
                (local.set $listed (i32.add (local.get $listed) (i32.const 1)))
                (i32.store
                  (i32.add (local.get $out) (i32.shl (local.get $listed) (i32.const 2)))
                  (local.get $at))
                (if (i32.eq (local.get $listed) (local.get $room))
                  (then
                    (i32.store (local.get $out) (local.get $listed))
                    (return (i32.add (local.get $at) (i32.const 1)))))
                (br $one)))))
        (local.set $slot (i32.add (local.get $slot) (i32.const 16)))
        (local.set $bits (i32.const -1))
        (br $sixteen)))
    (i32.store (local.get $out) (local.get $listed))
    (local.get $count))

  ;; One round of the sort by `shift`ed digits of eleven bits; `totals` hold where each digit's places begin, times four.
  (func $round
    (param $from i32) (param $keys i32) (param $to i32) (param $keysTo i32) (param $totals i32) (param $count i32)
    (param $shift i32)
    (local $end i32) (local $key i32) (local $total i32) (local $at i32)
    (local.set $end (i32.add (local.get $from) (i32.shl (local.get $count) (i32.const 2))))
    (loop $slot
      (local.set $key (i32.load (local.get $keys)))
      (local.set $total
        (i32.add (local.get $totals)
          (i32.shl
            (i32.and (i32.shr_u (local.get $key) (local.get $shift)) (i32.const 2047)) (i32.const 2))))
      (local.set $at (i32.load (local.get $total)))
      (i32.store (local.get $total) (i32.add (local.get $at) (i32.const 4)))
      (i32.store (i32.add (local.get $to) (local.get $at)) (i32.load (local.get $from)))
      (i32.store (i32.add (local.get $keysTo) (local.get $at)) (local.get $key))
      (local.set $from (i32.add (local.get $from) (i32.const 4)))
      (local.set $keys (i32.add (local.get $keys) (i32.const 4)))
      (br_if $slot (i32.lt_u (local.get $from) (local.get $end)))))

  ;; Sorts slots by keys of 32 bits, stably, least significant digit first; digits that are the same everywhere are passed over.
  ;; `totals` has room for three times 2048 words. Returns 1 when the outcome lies at `to`.
  (func (export "argsort")
    (param $from i32) (param $keys i32) (param $to i32) (param $keysTo i32) (param $totals i32) (param $count i32)
    (result i32)
    (local $at i32) (local $end i32) (local $key i32) (local $digit i32) (local $shift i32) (local $sum i32) (local $n i32)
    (local $turned i32) (local $first i32)
    (memory.fill (local.get $totals) (i32.const 0) (i32.const 24576))
    (local.set $first (i32.load (local.get $keys)))
    (local.set $at (local.get $keys))
    (local.set $end (i32.add (local.get $keys) (i32.shl (local.get $count) (i32.const 2))))
    (loop $count
      (local.set $key (i32.load (local.get $at)))
      (local.set $digit
        (i32.add (local.get $totals) (i32.shl (i32.and (local.get $key) (i32.const 2047)) (i32.const 2))))
      (i32.store (local.get $digit) (i32.add (i32.load (local.get $digit)) (i32.const 4)))
      (local.set $digit
        (i32.add (local.get $totals)
          (i32.shl (i32.and (i32.shr_u (local.get $key) (i32.const 11)) (i32.const 2047)) (i32.const 2))))
      (i32.store offset=8192 (local.get $digit) (i32.add (i32.load offset=8192 (local.get $digit)) (i32.const 4)))
      (local.set $digit
        (i32.add (local.get $totals) (i32.shl (i32.shr_u (local.get $key) (i32.const 22)) (i32.const 2))))
      (i32.store offset=16384 (local.get $digit) (i32.add (i32.load offset=16384 (local.get $digit)) (i32.const 4)))
      (local.set $at (i32.add (local.get $at) (i32.const 4)))
      (br_if $count (i32.lt_u (local.get $at) (local.get $end))))
    (loop $rounds
      (if
        (i32.ne
          (i32.load
            (i32.add (local.get $totals)
              (i32.shl
                (i32.and (i32.shr_u (local.get $first) (local.get $shift)) (i32.const 2047)) (i32.const 2))))
          (i32.shl (local.get $count) (i32.const 2)))
        (then
          (local.set $sum (i32.const 0))
          (local.set $at (local.get $totals))
          (local.set $end (i32.add (local.get $totals) (i32.const 8192)))
          (loop $begin
            (local.set $n (i32.load (local.get $at)))
            (i32.store (local.get $at) (local.get $sum))
            (local.set $sum (i32.add (local.get $sum) (local.get $n)))
            (local.set $at (i32.add (local.get $at) (i32.const 4)))
            (br_if $begin (i32.lt_u (local.get $at) (local.get $end))))
          (call $round
            (local.get $from) (local.get $keys) (local.get $to) (local.get $keysTo) (local.get $totals)
            (local.get $count) (local.get $shift))
          (local.set $at (local.get $from))
          (local.set $from (local.get $to))
          (local.set $to (local.get $at))
          (local.set $at (local.get $keys))
          (local.set $keys (local.get $keysTo))
          (local.set $keysTo (local.get $at))
          (local.set $turned (i32.xor (local.get $turned) (i32.const 1)))))
      (local.set $totals (i32.add (local.get $totals) (i32.const 8192)))
      (local.set $shift (i32.add (local.get $shift) (i32.const 11)))
      (br_if $rounds (i32.lt_u (local.get $shift) (i32.const 33))))
    (local.get $turned)))
