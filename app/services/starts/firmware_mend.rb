# frozen_string_literal: true

# Mends in the firmware of a stand-in computer: what it tries first, and its
# entry for the restored disk. On a real one a person does that; the checklist
# says what.
class FirmwareMend
  def initialize(docket)
    @docket = docket
  end

  # @param kind [String] "boot-order" or "boot-entry"
  # @return [Hash] title, before, after
  # @raise [Evrel::Refused] where the computer is not at hand
  def draft(kind)
    kind == 'boot-order' ? order_draft : entry_draft
  end

  # @param mend [Mend]
  def apply(mend)
    change do |one|
      mend.kind == 'boot-order' ? one['boot_order'] = split(mend.after) : one['entries'] = [entry]
    end
  end

  # @param mend [Mend]
  def undo(mend)
    change do |one|
      mend.kind == 'boot-order' ? one['boot_order'] = split(mend.before) : one['entries'] = JSON.parse(mend.before)
    end
  end

  private

  def order_draft
    order = at_hand['boot_order'] || []
    ours = "port #{attached.port}"
    { title: "Put #{ours} first", before: order.join(', '), after: [ours, *(order - [ours])].join(', ') }
  end

  def entry_draft
    { title: 'Write a start entry for this disk', before: JSON.generate(at_hand['entries'] || []),
      after: "#{entry['path']} on partition #{entry['partition']}" }
  end

  def entry
    esp = AttachedDrives.contents(attached).parts.find { |part| part['role'] == 'startup' } or
      raise Evrel::Refused.new('the disk has no start-up part', where: 'start')
    { 'name' => @docket.computer.name, 'path' => '\EFI\BOOT\BOOTX64.EFI', 'partition' => esp['guid'] }
  end

  def split(text) = text.split(', ')

  def attached
    @attached ||= AttachedDrives.of(@docket.write.drive) or
      raise Evrel::Refused.new('the written disk is not attached', where: 'start', hint: 'plug it in again')
  end

  def at_hand
    StartComputer.new(@docket).at_hand or
      raise Evrel::Refused.new("#{@docket.computer.name} is not at this bench", where: 'firmware',
                                                                                hint: 'set it in the firmware of the computer itself')
  end

  def change(&)
    at_hand
    Benches.computer(@docket.computer.name).first.change_computer(@docket.computer.name, &)
  end
end
