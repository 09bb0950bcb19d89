;; Samples out of interleaved bytes. Each call takes one channel: $from is the address of its first sample's bytes, $step the bytes of a
;; frame. Three bytes in front of the first sample and behind the last one may be read, and do not count.
(module
  (memory (export "memory") 1)

  ;; The last byte first.
  (func $turned (param $v i32) (result i32)
    (i32.or
      (i32.and (i32.rotl (local.get $v) (i32.const 8)) (i32.const 0x00ff00ff))
      (i32.and (i32.rotr (local.get $v) (i32.const 8)) (i32.const 0xff00ff00))))

  ;; $count whole numbers of $width bytes, 1 to 4, little endian or $big, as samples of single precision to $to.
  (func (export "whole") (param $from i32) (param $step i32) (param $count i32) (param $to i32) (param $width i32) (param $big i32)
    (local $shift i32) (local $end i32) (local $one f32)
    (local.set $shift (i32.sub (i32.const 32) (i32.shl (local.get $width) (i32.const 3))))
    ;; What full scale is divided by: 2 ^ (bits - 1).
    (local.set $one (f32.div (f32.const 1) (f32.convert_i32_u
      (i32.shl (i32.const 1) (i32.sub (i32.shl (local.get $width) (i32.const 3)) (i32.const 1))))))
    (local.set $end (i32.add (local.get $to) (i32.shl (local.get $count) (i32.const 2))))
    (if (i32.eqz (local.get $big)) (then (local.set $from (i32.sub (i32.add (local.get $from) (local.get $width)) (i32.const 4)))))
    (block $done
      (if (local.get $big)
        (then
          (loop $each
            (br_if $done (i32.ge_u (local.get $to) (local.get $end)))
            (f32.store (local.get $to) (f32.mul (local.get $one)
              (f32.convert_i32_s (i32.shr_s (call $turned (i32.load (local.get $from))) (local.get $shift)))))
            (local.set $from (i32.add (local.get $from) (local.get $step)))
            (local.set $to (i32.add (local.get $to) (i32.const 4)))
            (br $each)))
        (else
          (loop $each
            (br_if $done (i32.ge_u (local.get $to) (local.get $end)))
            (f32.store (local.get $to) (f32.mul (local.get $one)
              (f32.convert_i32_s (i32.shr_s (i32.load (local.get $from)) (local.get $shift)))))
            (local.set $from (i32.add (local.get $from) (local.get $step)))
            (local.set $to (i32.add (local.get $to) (i32.const 4)))
            (br $each))))))

  ;; $count numbers of single precision, little endian or $big, to $to: nothing instead of those that are not finite.
  (func (export "real") (param $from i32) (param $step i32) (param $count i32) (param $to i32) (param $big i32)
    (local $end i32) (local $v i32)
    (local.set $end (i32.add (local.get $to) (i32.shl (local.get $count) (i32.const 2))))
    (block $done
      (loop $each
        (br_if $done (i32.ge_u (local.get $to) (local.get $end)))
        (local.set $v (i32.load (local.get $from)))
        (if (local.get $big) (then (local.set $v (call $turned (local.get $v)))))
        (i32.store (local.get $to) (select (i32.const 0) (local.get $v)
          (i32.eq (i32.and (local.get $v) (i32.const 0x7f800000)) (i32.const 0x7f800000))))
        (local.set $from (i32.add (local.get $from) (local.get $step)))
        (local.set $to (i32.add (local.get $to) (i32.const 4)))
        (br $each))))
)
