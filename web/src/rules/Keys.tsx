import { Modal } from '@mantine/core';
import { sheetKeys } from './useSheetKeys';

/** The keys of the rule sheet. */
export function Keys({ opened, onClose }: { readonly opened: boolean; readonly onClose: () => void }) {
  return (
    <Modal opened={opened} onClose={onClose} title="Keys of the rule sheet" size="sm">
      <table className="grid">
        <tbody>
          {sheetKeys.map(([keys, meaning]) => (
            <tr key={keys}>
              <td className="nowrap">
                {keys.split(' ').map((key) => (
                  <kbd key={key}>{key}</kbd>
                ))}
              </td>
              <td>{meaning}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Modal>
  );
}
